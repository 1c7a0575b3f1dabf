package org.mnemex.sync.draft;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableNotes;

/**
 * Proposes an index over a table, and an endpoint for it.
 *
 * <p>Joins follow foreign keys: to other tables and one step further, back from referring tables,
 * and through pure link tables. Fields follow the types of columns and a sample of rows.
 */
public final class Draft {
  private static final int ROWS = 200;
  private static final int MANY_LIMIT = 200;

  private final Source source;
  private final Catalogue catalogue;
  private final Map<String, TableNotes> notes;
  private final Map<String, List<String>> unreadable;
  private final Catalogue.Table root;
  private final List<String> joins = new ArrayList<>();
  private final DraftNames names;
  private final DraftFields fields;
  private final Map<String, String> never = new TreeMap<>();
  private final Map<String, Map<String, ColumnSample>> samples = new TreeMap<>();

  private Draft(
      Source source,
      Catalogue catalogue,
      Map<String, TableNotes> notes,
      Map<String, List<String>> unreadable,
      Catalogue.Table root) {
    this.source = source;
    this.catalogue = catalogue;
    this.notes = notes;
    this.unreadable = unreadable;
    this.root = root;
    this.names = new DraftNames(root);
    this.fields = new DraftFields(names);
  }

  /**
   * Proposes definitions.
   *
   * @param root a table with a primary key
   * @return YAML that can be applied
   * @throws IllegalArgumentException with a sentence, if the table cannot be indexed
   */
  public static String of(Source source, String root) throws SourceUnavailableException {
    Catalogue catalogue = source.catalogue();
    Catalogue.Table table = catalogue.table(root);
    if (table == null) {
      throw new IllegalArgumentException("there is no table '" + root + "'");
    }
    if (table.view()) {
      throw new IllegalArgumentException(
          "'" + root + "' is a view, whose changes cannot be followed; choose the table behind it");
    }
    if (table.key().isEmpty()) {
      throw new IllegalArgumentException(
          "table '" + root + "' has no primary key, so its records cannot be distinguished");
    }
    for (String key : table.key()) {
      Catalogue.Column column = table.column(key);
      if (column != null && column.binary()) {
        throw new IllegalArgumentException(
            "the primary key of table '%s' holds bytes; key columns must be texts, numbers, dates or UUIDs"
                .formatted(root));
      }
    }
    Set<String> tables =
        catalogue.tables().values().stream()
            .filter(t -> !t.view())
            .map(Catalogue.Table::name)
            .collect(Collectors.toSet());
    Map<String, List<String>> unreadable = source.unreadable(tables);
    if (unreadable.containsKey(root)) {
      throw new IllegalArgumentException(
          "table '%s' cannot be read; an administrator of the database has to run:\n%s"
              .formatted(root, String.join("\n", unreadable.get(root))));
    }
    Draft draft = new Draft(source, catalogue, source.notes(tables), unreadable, table);
    draft.fill();
    return draft.text();
  }

  private Map<String, ColumnSample> sample(Catalogue.Table table)
      throws SourceUnavailableException {
    Map<String, ColumnSample> known = samples.get(table.name());
    if (known != null) {
      return known;
    }
    Map<String, ColumnSample> ofTable = new LinkedHashMap<>();
    List<String> columns =
        table.columns().stream().filter(c -> !c.binary()).map(Catalogue.Column::name).toList();
    List<Map<String, Object>> rows =
        columns.isEmpty() ? List.of() : source.sample(table.name(), columns, ROWS);
    columns.forEach(column -> ofTable.put(column, new ColumnSample(column, rows)));
    samples.put(table.name(), ofTable);
    return ofTable;
  }

  private void fill() throws SourceUnavailableException {
    columns(root, null, false, false);
    for (TableNotes.ForeignKey key : keys(root.name())) {
      one(key, null);
    }
    for (Catalogue.Table table : catalogue.tables().values()) {
      for (TableNotes.ForeignKey key : keys(table.name())) {
        if (key.table().equals(root.name()) && !table.name().equals(root.name())) {
          backFrom(table, key);
        }
      }
    }
  }

  private List<TableNotes.ForeignKey> keys(String table) {
    return notes.getOrDefault(table, TableNotes.NONE).foreignKeys();
  }

  /** Whether a table can be read; if not, the draft says what it takes. */
  private boolean isReadable(String table) {
    List<String> statements = unreadable.get(table);
    if (statements != null) {
      fields.leaveOut(null, table, "it cannot be read; " + String.join(" ", statements));
    }
    return statements == null;
  }

  private void one(TableNotes.ForeignKey key, @Nullable String through)
      throws SourceUnavailableException {
    Catalogue.Table table = catalogue.table(key.table());
    if (table == null) {
      fields.leaveOut(null, key.table(), "our account cannot see this table");
    }
    if (table == null || table.view() || !isReadable(table.name())) {
      return;
    }
    String column = key.columns().keySet().iterator().next();
    String stem = column.replaceAll("(?i)(_?id|_?code|_?no|_?key)$", "");
    String wanted =
        key.columns().size() == 1 && !stem.isEmpty() && !stem.equals(column) ? stem : key.table();
    String name = names.join(wanted, key.table());
    joins.add(
        "%s: {table: %s, match: {%s}}  # %s"
            .formatted(
                DraftNames.quoted(name),
                DraftNames.quoted(key.table()),
                pairs(key.columns(), through, true),
                DraftFields.comment(
                    "foreign key on " + String.join(", ", key.columns().keySet()))));
    // A record of the same kind, such as a parent, is no list of names.
    columns(table, name, false, !key.table().equals(root.name()));
    if (through == null && !key.table().equals(root.name())) {
      for (TableNotes.ForeignKey next : keys(key.table())) {
        if (!next.table().equals(root.name()) && !next.table().equals(key.table())) {
          one(next, name);
        }
      }
    }
  }

  private void backFrom(Catalogue.Table table, TableNotes.ForeignKey key)
      throws SourceUnavailableException {
    if (!isReadable(table.name())) {
      return;
    }
    List<TableNotes.ForeignKey> others =
        keys(table.name()).stream().filter(other -> !other.equals(key)).toList();
    boolean link =
        others.size() == 1
            && !others.getFirst().table().equals(root.name())
            && table.columns().size()
                <= key.columns().size() + others.getFirst().columns().size() + 2;
    if (link) {
      TableNotes.ForeignKey other = others.getFirst();
      Catalogue.Table far = catalogue.table(other.table());
      if (far == null || !isReadable(far.name())) {
        return;
      }
      String name = names.join(DraftNames.plural(other.table()), other.table());
      joins.add(
          "%s: {table: %s, via: {table: %s, match: {%s}, to: {%s}}, many: true}  # %s"
              .formatted(
                  DraftNames.quoted(name),
                  DraftNames.quoted(other.table()),
                  DraftNames.quoted(table.name()),
                  pairs(key.columns(), null, false),
                  plain(other.columns()),
                  DraftFields.comment("'" + table.name() + "' links both")));
      columns(far, name, true, true);
      return;
    }
    String name = names.join(DraftNames.plural(table.name()), table.name());
    joins.add(
        "%s: {table: %s, match: {%s}, many: true, limit: %d}  # %s"
            .formatted(
                DraftNames.quoted(name),
                DraftNames.quoted(table.name()),
                pairs(key.columns(), null, false),
                MANY_LIMIT,
                DraftFields.comment("'" + table.name() + "' refers to this table")));
    columns(table, name, true, false);
  }

  /**
   * The equalities of a join.
   *
   * @param out whether the foreign key belongs to the table that the join starts from
   */
  private static String pairs(Map<String, String> columns, @Nullable String through, boolean out) {
    return columns.entrySet().stream()
        .map(
            pair ->
                out
                    ? DraftNames.quoted(pair.getValue())
                        + ": "
                        + DraftNames.ref(through, pair.getKey())
                    : DraftNames.quoted(pair.getKey())
                        + ": "
                        + DraftNames.ref(through, pair.getValue()))
        .collect(Collectors.joining(", "));
  }

  private static String plain(Map<String, String> columns) {
    return columns.entrySet().stream()
        .map(pair -> DraftNames.quoted(pair.getKey()) + ": " + DraftNames.quoted(pair.getValue()))
        .collect(Collectors.joining(", "));
  }

  /**
   * Proposes fields for the columns of a table.
   *
   * @param lookup whether the table names what others refer to, such as sections or tags
   */
  private void columns(Catalogue.Table table, @Nullable String join, boolean many, boolean lookup)
      throws SourceUnavailableException {
    Map<String, ColumnSample> sampled = sample(table);
    Set<String> references =
        keys(table.name()).stream()
            .flatMap(key -> key.columns().keySet().stream())
            .collect(Collectors.toSet());
    for (Catalogue.Column column : table.columns()) {
      ColumnSample sample = sampled.get(column.name());
      boolean isReference = references.contains(column.name());
      boolean isKey = table.key().contains(column.name());
      // The key of a related row often includes its content, such as a tag.
      boolean isValue =
          isKey && !isReference && many && !lookup && sample != null && !sample.isNumbering();
      if (column.name().indexOf('.') >= 0) {
        fields.leaveOut(join, column.name(), "a name with a point");
      } else if (column.binary()) {
        fields.file(table, column, join);
      } else if (join != null && isKey && !isValue || isReference && !isKey) {
        fields.leaveOut(join, column.name(), "it only refers to other rows");
      } else {
        String personal = sample == null ? "" : sample.personal();
        if (!personal.isEmpty()) {
          never.put(table.name() + "." + column.name(), personal);
        } else if (sample != null) {
          TableNotes told = notes.getOrDefault(table.name(), TableNotes.NONE);
          fields.add(
              new DraftColumn(
                  column.name(),
                  told.types().getOrDefault(column.name(), column.type()),
                  sample,
                  join,
                  many,
                  lookup || isValue,
                  isKey && !isValue,
                  told.comments().get(column.name())));
        }
      }
    }
  }

  private String text() {
    String index = DraftNames.index(root.name());
    StringBuilder out = new StringBuilder();
    out.append(
        "# Proposed from the schema and up to %d rows of each table. Read every line, change what is\n"
            .formatted(ROWS));
    out.append("# wrong, then: mnemex apply FILE\n");
    out.append("index: ").append(index).append('\n');
    out.append("source: ").append(source.name()).append('\n');
    out.append("record:\n  root: ").append(DraftNames.quoted(root.name())).append('\n');
    out.append("  key: [")
        .append(root.key().stream().map(DraftNames::quoted).collect(Collectors.joining(", ")))
        .append("]  # the primary key\n");
    if (!joins.isEmpty()) {
      out.append("  join:\n");
      joins.forEach(join -> out.append("    ").append(join).append('\n'));
    }
    if (!never.isEmpty()) {
      out.append("never:  # never read: they look personal\n");
      never.forEach(
          (column, why) ->
              out.append("  - ")
                  .append(DraftNames.quoted(column))
                  .append("  # ")
                  .append(why)
                  .append('\n'));
    }
    fields.write(out, index);
    return out.toString();
  }
}
