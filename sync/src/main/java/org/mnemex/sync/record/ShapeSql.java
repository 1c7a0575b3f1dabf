package org.mnemex.sync.record;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.RecordShape.Join;
import org.mnemex.sync.definition.RecordShape.Link;
import org.mnemex.sync.extract.TextExtractor;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.Row;
import org.mnemex.sync.source.RowNames;

/**
 * The statements for a record shape. They refer to the root by its table's name, to a join by its
 * own name and to a link by its table's name, as conditions in definitions do.
 */
final class ShapeSql {
  private final Sql sql;
  private final RecordShape shape;
  private final ReadColumns tables;
  private final Map<String, String> expressions;
  private final List<Output> rootOutputs = new ArrayList<>();
  private final List<String> keyColumns;
  private final KeyValues keyValues;
  private final RowNames rootNames;
  private final RowNames computedNames;
  private final Map<String, RowNames> joinNames = new HashMap<>();

  /**
   * @param expressions SQL expression by field name
   */
  ShapeSql(Sql sql, RecordShape shape, ReadColumns tables, Map<String, String> expressions) {
    this.sql = sql;
    this.shape = shape;
    this.tables = tables;
    this.expressions = new TreeMap<>(expressions);
    this.keyColumns = shape.key().stream().map(column -> sql.column(shape.root(), column)).toList();
    ReadColumns.Table root = tables.tables().get(shape.root());
    this.keyValues =
        new KeyValues(
            sql,
            shape.key().stream()
                .map(column -> root == null ? "" : root.types().getOrDefault(column, ""))
                .toList());
    for (String column : tables.columns(shape.root())) {
      rootOutputs.add(output(null, shape.root(), column));
    }
    for (Join join : shape.joins()) {
      if (!join.many()) {
        tables
            .columns(join.table())
            .forEach(column -> rootOutputs.add(output(join.name(), join.table(), column)));
      }
    }
    this.expressions
        .keySet()
        .forEach(field -> rootOutputs.add(new Output(null, field, Output.Kind.EXPRESSION)));
    this.rootNames =
        new RowNames(
            Stream.concat(
                    tables.columns(shape.root()).stream(), shape.joins().stream().map(Join::name))
                .toList());
    this.computedNames = new RowNames(this.expressions.keySet());
    for (Join join : shape.joins()) {
      joinNames.put(join.name(), new RowNames(tables.columns(join.table())));
    }
  }

  private Output output(@Nullable String join, String table, String column) {
    return new Output(
        join,
        column,
        shape.files().contains(table + "." + column) ? Output.Kind.FILE : Output.Kind.COLUMN);
  }

  /**
   * A selected value.
   *
   * @param column the name of the column, or of the field whose expression it is
   */
  record Output(@Nullable String join, String column, Kind kind) {
    /** The SQL that selects it. */
    enum Kind {
      COLUMN,
      /** A column of files: its bytes, unless there are too many, and its size. */
      FILE,
      /** The expression of a field. */
      EXPRESSION
    }

    boolean file() {
      return kind == Kind.FILE;
    }

    @Override
    public String toString() {
      return join == null ? column : join + "." + column;
    }
  }

  /** A way from rows of a table to the keys of their records. */
  record Way(
      Sql sql,
      String table,
      List<String> columns,
      String select,
      List<String> conditions,
      List<String> keyColumns) {
    /** The statement for some rows, unordered, so that the database plans for few records. */
    String select(int rows, long limit) {
      return select + " WHERE " + sql.in(conditions, rows) + " LIMIT " + limit;
    }

    /**
     * The statement for some rows in key order.
     *
     * @param continued whether only after a key
     */
    String selectInOrder(int rows, boolean continued, int limit) {
      return "%s WHERE %s%s ORDER BY %s LIMIT %d"
          .formatted(
              select,
              sql.in(conditions, rows),
              continued ? " AND " + sql.after(keyColumns) : "",
              Sql.list(keyColumns),
              limit);
    }
  }

  List<String> keyColumns() {
    return keyColumns;
  }

  /** Converts keys to parameters. */
  KeyValues keyValues() {
    return keyValues;
  }

  /** What {@link #roots} selects after the key columns. */
  List<Output> rootOutputs() {
    return rootOutputs;
  }

  /** The content of a record that is still being read. */
  RecordContent content() {
    return new RecordContent(rootNames.row(), computedNames.row());
  }

  /** A row of a join that is still being read. */
  Row joinRow(String join) {
    return Objects.requireNonNull(joinNames.get(join)).row();
  }

  /** Selects root rows with their one-to-one joins. */
  String roots(String where) {
    List<String> selected = new ArrayList<>(keyColumns());
    for (Output output : rootOutputs) {
      if (output.kind == Output.Kind.EXPRESSION) {
        selected.add("(" + expressions.get(output.column) + ")");
      } else {
        selected.add(selected(output, output.join == null ? shape.root() : output.join));
      }
    }
    StringBuilder text = new StringBuilder("SELECT ").append(Sql.list(selected));
    text.append(" FROM ").append(sql.name(shape.root()));
    for (Join join : shape.joins()) {
      if (!join.many()) {
        text.append(" LEFT JOIN ").append(table(join)).append(" ON ").append(on(join));
        if (join.only() != null) {
          text.append(" AND (").append(join.only()).append(")");
        }
      }
    }
    return text.append(" WHERE ").append(where).append(onlyCondition()).toString();
  }

  /** The same in key order, without rows that have no key. */
  String rootsInOrder(String where) {
    return roots(where) + inOrder();
  }

  /** Selects the key of the n-th root row in key order. */
  String keyAt(String where, int rows) {
    return "SELECT %s FROM %s WHERE %s%s%s LIMIT 1 OFFSET %d"
        .formatted(
            Sql.list(keyColumns), sql.name(shape.root()), where, onlyCondition(), inOrder(), rows);
  }

  private String inOrder() {
    StringBuilder text = new StringBuilder();
    keyColumns.forEach(column -> text.append(" AND ").append(column).append(" IS NOT NULL"));
    return text.append(" ORDER BY ").append(Sql.list(keyColumns)).toString();
  }

  private String selected(Output output, String alias) {
    String column = sql.column(alias, output.column);
    return output.file()
        ? "CASE WHEN octet_length(%1$s) <= %2$d THEN %1$s END, octet_length(%1$s)"
            .formatted(column, TextExtractor.MAX_BYTES)
        : column;
  }

  /** The condition for some keys. */
  String hasKey(int keys) {
    return sql.in(keyColumns(), keys);
  }

  /** The condition for keys after a key. */
  String afterKey() {
    return sql.after(keyColumns());
  }

  /** The condition for keys up to a key. */
  String upToKey() {
    return sql.upTo(keyColumns());
  }

  /** Counts root rows, up to a limit. */
  String countUpTo(int limit) {
    return "SELECT count(*) FROM (SELECT 1 FROM %s WHERE 1 = 1%s LIMIT %d) AS counted"
        .formatted(sql.name(shape.root()), onlyCondition(), limit);
  }

  private String onlyCondition() {
    return shape.only() == null ? "" : " AND (" + shape.only() + ")";
  }

  List<Output> manyOutputs(Join join) {
    return tables.columns(join.table()).stream()
        .map(column -> output(join.name(), join.table(), column))
        .toList();
  }

  /** Selects the rows of a to-many join, each after the key of its record. */
  String many(Join join, int records) {
    Link link = join.link();
    List<String> selected = new ArrayList<>(keyColumns());
    manyOutputs(join).forEach(output -> selected.add(selected(output, join.name())));
    StringBuilder text = new StringBuilder("SELECT ").append(Sql.list(selected)).append(" FROM ");
    if (link == null) {
      text.append(fromWith(join.match().values()));
      text.append(" JOIN ").append(table(join)).append(" ON ").append(on(join));
    } else {
      text.append(fromWith(link.match().values()));
      text.append(" JOIN ").append(sql.name(link.table()));
      text.append(" ON ").append(equalities(link.table(), link.match()));
      text.append(" JOIN ").append(table(join));
      text.append(" ON ").append(linkToTable(join, link));
    }
    text.append(" WHERE ").append(sql.in(keyColumns(), records));
    if (join.only() != null) {
      text.append(" AND (").append(join.only()).append(")");
    }
    return text.append(" ORDER BY ").append(order(join)).toString();
  }

  /** The definition's order, then the primary key, so that equal content gives equal records. */
  private String order(Join join) {
    List<String> order = new ArrayList<>();
    for (String column : join.order()) {
      boolean descending = column.startsWith("-");
      order.add(
          sql.column(join.name(), descending ? column.substring(1) : column)
              + (descending ? " DESC" : ""));
    }
    List<String> key = tables.key(join.table());
    List<String> last = key.isEmpty() ? tables.columns(join.table()) : key;
    last.forEach(column -> order.add(sql.column(join.name(), column)));
    return Sql.list(order);
  }

  /** For every joined table, the ways from its rows back to record keys. */
  List<Way> waysBack() {
    List<Way> ways = new ArrayList<>();
    for (Join join : shape.joins()) {
      Link link = join.link();
      if (link == null) {
        ways.add(way(join.table(), join.match()));
      } else {
        ways.add(way(link.table(), link.match()));
        List<String> columns = new ArrayList<>();
        List<String> conditions = new ArrayList<>();
        new TreeMap<>(link.to())
            .forEach(
                (linkColumn, column) -> {
                  columns.add(column);
                  conditions.add(sql.column(link.table(), linkColumn));
                });
        String on = equalities(link.table(), link.match());
        String through =
            fromWith(link.match().values()) + " JOIN " + sql.name(link.table()) + " ON " + on;
        ways.add(new Way(sql, join.table(), columns, selectKeys(through), conditions, keyColumns));
      }
    }
    return ways;
  }

  private Way way(String table, Map<String, ColumnRef> match) {
    List<String> columns = new ArrayList<>();
    List<String> conditions = new ArrayList<>();
    new TreeMap<>(match)
        .forEach(
            (column, ref) -> {
              columns.add(column);
              conditions.add(column(ref));
            });
    return new Way(
        sql, table, columns, selectKeys(fromWith(match.values())), conditions, keyColumns);
  }

  private String selectKeys(String from) {
    return "SELECT DISTINCT " + Sql.list(keyColumns()) + " FROM " + from;
  }

  /** The root and the joins that some references need, in the order of the definition. */
  private String fromWith(Collection<ColumnRef> refs) {
    Set<String> needed = new LinkedHashSet<>();
    refs.forEach(ref -> need(ref, needed));
    StringBuilder from = new StringBuilder(sql.name(shape.root()));
    for (Join join : shape.joins()) {
      if (needed.contains(join.name())) {
        from.append(" JOIN ").append(table(join)).append(" ON ").append(on(join));
      }
    }
    return from.toString();
  }

  private void need(ColumnRef ref, Set<String> needed) {
    if (ref.join() != null && needed.add(ref.join())) {
      Join join = shape.join(ref.join());
      if (join != null) {
        join.match().values().forEach(next -> need(next, needed));
      }
    }
  }

  private String table(Join join) {
    return sql.name(join.table()) + " AS " + sql.name(join.name());
  }

  private String on(Join join) {
    return equalities(join.name(), join.match());
  }

  private String equalities(String alias, Map<String, ColumnRef> match) {
    return new TreeMap<>(match)
        .entrySet().stream()
            .map(entry -> sql.column(alias, entry.getKey()) + " = " + column(entry.getValue()))
            .collect(Collectors.joining(" AND "));
  }

  private String linkToTable(Join join, Link link) {
    return new TreeMap<>(link.to())
        .entrySet().stream()
            .map(
                entry ->
                    sql.column(link.table(), entry.getKey())
                        + " = "
                        + sql.column(join.name(), entry.getValue()))
            .collect(Collectors.joining(" AND "));
  }

  private String column(ColumnRef ref) {
    return sql.column(ref.join() == null ? shape.root() : ref.join(), ref.column());
  }
}
