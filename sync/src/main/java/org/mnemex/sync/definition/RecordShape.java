package org.mnemex.sync.definition;

import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * One row of a root table together with its related rows.
 *
 * @param root the root table
 * @param key columns of the root that identify a record
 * @param only SQL condition on the root row that a record must meet, or null
 * @param joins related rows by name; a join may refer to one before it
 * @param never columns, as {@code table.column}, that are never read
 * @param files columns of bytes, as {@code table.column}, whose text is extracted
 */
public record RecordShape(
    String root,
    List<String> key,
    @Nullable String only,
    List<Join> joins,
    Set<String> never,
    Set<String> files) {

  /** A shape without files. */
  public RecordShape(
      String root, List<String> key, @Nullable String only, List<Join> joins, Set<String> never) {
    this(root, key, only, joins, never, Set.of());
  }

  public RecordShape {
    key = List.copyOf(key);
    joins = List.copyOf(joins);
    never = Set.copyOf(never);
    files = Set.copyOf(files);
  }

  /** The join of that name, or null. */
  public @Nullable Join join(String name) {
    return joins.stream().filter(join -> join.name().equals(name)).findFirst().orElse(null);
  }

  /** The same with columns of files. */
  public RecordShape withFiles(Set<String> columns) {
    return new RecordShape(root, key, only, joins, never, columns);
  }

  /** Whether a record may have several values of a column. */
  public boolean isMany(ColumnRef ref) {
    Join join = ref.join() == null ? null : join(ref.join());
    return join != null && (join.many() || join.match().values().stream().anyMatch(this::isMany));
  }

  /** A column as {@code table.column}. */
  public String tableColumn(ColumnRef ref) {
    Join join = ref.join() == null ? null : join(ref.join());
    return (join == null ? root : join.table()) + "." + ref.column();
  }

  /** By table, the columns by which its rows are related to records. */
  public Map<String, Set<String>> watchedColumns() {
    Map<String, Set<String>> watched = new TreeMap<>();
    watch(watched, root, key);
    for (Join join : joins) {
      Link link = join.link();
      if (link == null) {
        watch(watched, join.table(), join.match().keySet());
      } else {
        watch(watched, join.table(), link.to().values());
        watch(watched, link.table(), link.match().keySet());
        watch(watched, link.table(), link.to().keySet());
      }
    }
    return watched;
  }

  /**
   * The columns by which rows are looked up, in both directions; one of each list should lead an
   * index.
   */
  public Map<String, Set<Set<String>>> lookups() {
    Map<String, Set<Set<String>>> lookups = new TreeMap<>();
    for (Join join : joins) {
      Link link = join.link();
      if (link == null) {
        lookUp(lookups, join.table(), join.match().keySet());
        lookUpBack(lookups, join.match().values());
      } else {
        lookUp(lookups, link.table(), link.match().keySet());
        lookUp(lookups, link.table(), link.to().keySet());
        lookUp(lookups, join.table(), link.to().values());
        lookUpBack(lookups, link.match().values());
      }
    }
    return lookups;
  }

  private void lookUpBack(Map<String, Set<Set<String>>> lookups, Collection<ColumnRef> refs) {
    Map<String, Set<String>> byTable = new TreeMap<>();
    for (ColumnRef ref : refs) {
      Join join = ref.join() == null ? null : join(ref.join());
      byTable
          .computeIfAbsent(join == null ? root : join.table(), table -> new TreeSet<>())
          .add(ref.column());
    }
    byTable.forEach((table, columns) -> lookUp(lookups, table, columns));
  }

  private static void lookUp(
      Map<String, Set<Set<String>>> lookups, String table, Collection<String> columns) {
    lookups.computeIfAbsent(table, name -> new LinkedHashSet<>()).add(new TreeSet<>(columns));
  }

  private static void watch(
      Map<String, Set<String>> watched, String table, Collection<String> columns) {
    watched.computeIfAbsent(table, name -> new TreeSet<>()).addAll(columns);
  }

  /**
   * Related rows.
   *
   * @param name how fields refer to it
   * @param table the related table
   * @param match equalities, by column of {@code table}; empty if there is a link
   * @param link the linking table, or null
   * @param many whether there may be several rows
   * @param only SQL condition on the related row and the link, or null
   * @param order columns to order by, with a minus for descending
   * @param limit the maximum number of rows; 0: no limit
   */
  public record Join(
      String name,
      String table,
      Map<String, ColumnRef> match,
      @Nullable Link link,
      boolean many,
      @Nullable String only,
      List<String> order,
      int limit) {
    public Join {
      match = Map.copyOf(match);
      order = List.copyOf(order);
    }
  }

  /**
   * A table that relates root rows to rows of another table.
   *
   * @param table the linking table
   * @param match equalities with the root, by column of {@code table}
   * @param to equalities with the related table, by column of {@code table}
   */
  public record Link(String table, Map<String, ColumnRef> match, Map<String, String> to) {
    public Link {
      match = Map.copyOf(match);
      to = Map.copyOf(to);
    }
  }

  /**
   * A column of the root or of a join.
   *
   * @param join the join's name, null for the root
   */
  public record ColumnRef(@Nullable String join, String column) {
    /** Reads {@code column} or {@code join.column}. */
    public static ColumnRef of(String text) {
      int dot = text.indexOf('.');
      return dot < 0
          ? new ColumnRef(null, text)
          : new ColumnRef(text.substring(0, dot), text.substring(dot + 1));
    }

    @Override
    public String toString() {
      return join == null ? column : join + "." + column;
    }
  }
}
