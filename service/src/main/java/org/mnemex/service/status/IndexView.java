package org.mnemex.service.status;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;

/**
 * An index definition for display: the tables of a record, and its fields.
 *
 * @param name name of the index
 * @param source the source of its records
 * @param tables the tables, the root first, then related ones in the order of the definition
 * @param never columns that are never read, as {@code table.column}
 * @param fields the fields
 */
public record IndexView(
    String name,
    String source,
    List<TableView> tables,
    List<String> never,
    List<FieldView> fields) {

  /**
   * A table that a record is read from.
   *
   * @param name how fields refer to the table; the table's own name for the root
   * @param table name of the table in the database
   * @param of name of the table whose rows it belongs to; null for the root
   * @param many whether a record may have several of its rows
   * @param match equalities that join it, like {@code id = taxon_id}
   * @param link the linking table, or null
   * @param only SQL condition on its rows, or null
   * @param order columns that order its rows
   * @param limit the most rows of one record that are read
   * @param columns the columns that fields use
   */
  public record TableView(
      String name,
      String table,
      @Nullable String of,
      boolean many,
      List<String> match,
      @Nullable String link,
      @Nullable String only,
      List<String> order,
      int limit,
      List<String> columns) {}

  /**
   * A field.
   *
   * @param name name of the field
   * @param title what people read
   * @param type type of the field
   * @param from the column, as {@code join.column}, or the SQL expression; null for a group
   * @param sql whether {@code from} is an SQL expression
   * @param analyser analyser of documents; null for fields that are not text
   * @param queryAnalyser analyser of queries, if it is a different one
   * @param uses what the field may be used for
   * @param clean names of the steps that clean its values
   * @param weight how much a match in it counts
   * @param children the fields of a group
   */
  public record FieldView(
      String name,
      String title,
      String type,
      @Nullable String from,
      boolean sql,
      @Nullable String analyser,
      @Nullable String queryAnalyser,
      List<String> uses,
      List<String> clean,
      double weight,
      List<FieldView> children) {}

  /** What a definition says. */
  public static IndexView of(IndexDefinition index) {
    RecordShape shape = index.shape();
    Map<String, Set<String>> columns = new TreeMap<>();
    index.fields().forEach(field -> collect(field, shape, columns));
    columns.computeIfAbsent(shape.root(), root -> new TreeSet<>()).addAll(shape.key());
    List<TableView> tables = new ArrayList<>();
    tables.add(
        new TableView(
            shape.root(),
            shape.root(),
            null,
            false,
            List.of(),
            null,
            shape.only(),
            List.of(),
            0,
            List.copyOf(columns.getOrDefault(shape.root(), Set.of()))));
    for (RecordShape.Join join : shape.joins()) {
      RecordShape.Link link = join.link();
      tables.add(
          new TableView(
              join.name(),
              join.table(),
              owner(link == null ? join.match() : link.match(), shape),
              join.many(),
              match(join),
              link == null ? null : link.table(),
              join.only(),
              join.order(),
              join.limit(),
              List.copyOf(columns.getOrDefault(join.name(), Set.of()))));
    }
    return new IndexView(
        index.name(),
        index.source(),
        tables,
        shape.never().stream().sorted().toList(),
        index.fields().stream().map(IndexView::field).toList());
  }

  /** The join that rows belong to, as far as one is named; else the root. */
  private static String owner(Map<String, ColumnRef> match, RecordShape shape) {
    return match.values().stream()
        .map(ColumnRef::join)
        .filter(join -> join != null)
        .findFirst()
        .orElse(shape.root());
  }

  private static List<String> match(RecordShape.Join join) {
    RecordShape.Link link = join.link();
    List<String> equalities = new ArrayList<>();
    (link == null ? join.match() : link.match())
        .forEach((column, ref) -> equalities.add(column + " = " + ref));
    if (link != null) {
      link.to().forEach((column, to) -> equalities.add(column + " = " + to));
    }
    return equalities.stream().sorted().toList();
  }

  private static void collect(
      FieldDefinition field, RecordShape shape, Map<String, Set<String>> columns) {
    for (ColumnRef ref : refs(field)) {
      String join = ref.join();
      columns
          .computeIfAbsent(join == null ? shape.root() : join, table -> new TreeSet<>())
          .add(ref.column());
    }
    field.children().forEach(child -> collect(child, shape, columns));
  }

  private static Collection<ColumnRef> refs(FieldDefinition field) {
    List<ColumnRef> refs = new ArrayList<>();
    if (field.from() != null) {
      refs.add(field.from());
    }
    if (field.second() != null) {
      refs.add(field.second());
    }
    return refs;
  }

  private static FieldView field(FieldDefinition defined) {
    Field field = defined.field();
    String from = defined.sql();
    if (from == null && defined.from() != null) {
      from = defined.from() + (defined.second() == null ? "" : ", " + defined.second());
    }
    String analyser = field.analyser() == null ? null : field.analyser().name();
    String ofQueries = field.queryAnalyser() == null ? null : field.queryAnalyser().name();
    return new FieldView(
        field.name(),
        defined.title(),
        field.type().word(),
        from,
        defined.sql() != null,
        analyser,
        ofQueries == null || ofQueries.equals(analyser) ? null : ofQueries,
        field.uses().stream().sorted().map(use -> use.name().toLowerCase(Locale.ROOT)).toList(),
        defined.clean().stream().map(IndexView::step).toList(),
        field.weight(),
        defined.children().stream().map(IndexView::field).toList());
  }

  private static String step(Object step) {
    return step.getClass()
        .getSimpleName()
        .replaceAll("(?<=[a-z])(?=[A-Z])", "-")
        .toLowerCase(Locale.ROOT);
  }
}
