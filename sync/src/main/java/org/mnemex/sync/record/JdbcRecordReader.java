package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.Join;
import org.mnemex.sync.source.Affected;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.FanOut;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.Row;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Assembles records with one query for the root rows and their one-to-one joins, and one for each
 * to-many join, however many records there are. All queries see one state of the database.
 */
final class JdbcRecordReader implements RecordReader {
  /** Keys per statement; databases allow some 32,000 parameters. */
  private static final int KEYS_PER_STATEMENT = 500;

  /** Counting this many rows is cheap. */
  private static final int COUNTED_ROWS = 200_000;

  private final SqlDatabase database;
  private final RecordShape shape;
  private final Map<String, String> expressions;
  private final Shard shard;
  private final @Nullable ReadColumns columns;
  private final Connections connections;
  private @Nullable ShapeSql sql;

  /**
   * A reader of one shape.
   *
   * @param expressions SQL expression by field name
   * @param columns the columns to read; null for all that exist at the first read
   */
  JdbcRecordReader(
      SqlDatabase database,
      RecordShape shape,
      Map<String, String> expressions,
      @Nullable ReadColumns columns,
      Shard shard) {
    this.columns = columns;
    this.shard = shard;
    this.database = database;
    this.shape = shape;
    this.expressions = Map.copyOf(expressions);
    this.connections = database.connections(() -> sql = null);
  }

  @Override
  public Records read(Collection<RecordKey> keys) throws SourceUnavailableException {
    return inOneState(
        (c, s) -> {
          Batch batch = new Batch();
          for (List<List<Object>> some : parts(rows(s, shard.own(keys)))) {
            String text = s.roots(s.hasKey(some.size()));
            readRoots(c, s, text, flat(some), batch);
          }
          return finish(c, s, batch);
        });
  }

  @Override
  public Records readAfter(@Nullable RecordKey after, int limit) throws SourceUnavailableException {
    return inOneState(
        (c, s) -> {
          Batch batch = new Batch();
          readFirst(c, s, after, limit, batch);
          return finish(c, s, batch);
        });
  }

  /** Reads on past records of other shards until there are enough, or no more. */
  private void readFirst(
      Connection connection, ShapeSql sql, @Nullable RecordKey after, int limit, Batch batch)
      throws SQLException {
    long atOnce = (long) limit * shard.of();
    RecordKey from = after;
    boolean isFull = false;
    while (!isFull) {
      String select = sql.rootsInOrder(between(sql, from, null)) + " LIMIT " + atOnce;
      long before = batch.seen;
      try (PreparedStatement statement = connection.prepareStatement(select)) {
        bind(statement, betweenParameters(sql, from, null));
        try (ResultSet rows = statement.executeQuery()) {
          RowValues values = new RowValues(database, rows);
          while (batch.rows < limit && rows.next()) {
            readRoot(sql, values, batch);
          }
        }
      }
      from = batch.lastSeen;
      isFull = batch.rows >= limit || batch.seen - before < atOnce;
    }
  }

  @Override
  public @Nullable RecordKey skip(@Nullable RecordKey after, int records)
      throws SourceUnavailableException {
    return inOneState(
        (c, s) -> {
          String select = s.keyAt(between(s, after, null), records - 1);
          try (PreparedStatement statement = c.prepareStatement(select)) {
            bind(statement, betweenParameters(s, after, null));
            try (ResultSet rows = statement.executeQuery()) {
              RowValues values = new RowValues(database, rows);
              return rows.next() ? key(s, values) : null;
            }
          }
        });
  }

  @Override
  public Records readBetween(@Nullable RecordKey after, @Nullable RecordKey upTo)
      throws SourceUnavailableException {
    return inOneState(
        (c, s) -> {
          Batch batch = new Batch();
          String select = s.rootsInOrder(between(s, after, upTo));
          readRoots(c, s, select, betweenParameters(s, after, upTo), batch);
          return finish(c, s, batch);
        });
  }

  private static String between(ShapeSql sql, @Nullable RecordKey after, @Nullable RecordKey upTo) {
    String start = after == null ? "1 = 1" : sql.afterKey();
    return upTo == null ? start : start + " AND " + sql.upToKey();
  }

  private static List<Object> betweenParameters(
      ShapeSql sql, @Nullable RecordKey after, @Nullable RecordKey upTo) {
    List<Object> parameters = new ArrayList<>();
    Stream.of(Optional.ofNullable(after), Optional.ofNullable(upTo))
        .flatMap(Optional::stream)
        .forEach(
            key -> {
              List<List<Object>> rows = sql.keyValues().rows(key.values());
              parameters.addAll(
                  Sql.afterParameters(rows.isEmpty() ? key.values() : rows.getFirst()));
            });
    return parameters;
  }

  private static List<List<Object>> rows(ShapeSql sql, Collection<RecordKey> keys) {
    return keys.stream().flatMap(key -> sql.keyValues().rows(key.values()).stream()).toList();
  }

  @Override
  public long estimate() throws SourceUnavailableException {
    return inOneState(
        (c, s) -> {
          long estimate = database.estimate(c, shape.root());
          if (estimate > 0) {
            return estimate / shard.of();
          }
          try (Statement statement = c.createStatement();
              ResultSet rows = statement.executeQuery(s.countUpTo(COUNTED_ROWS))) {
            return rows.next() ? rows.getLong(1) / shard.of() : 0;
          }
        });
  }

  @Override
  public Affected affected(List<Change> changes, int limit) throws SourceUnavailableException {
    Map<RecordKey, Change> causes = new LinkedHashMap<>();
    Map<String, Map<Map<String, Object>, Change>> byTable = new LinkedHashMap<>();
    for (Change change : changes) {
      byTable
          .computeIfAbsent(change.table(), t -> new LinkedHashMap<>())
          .putIfAbsent(change.columns(), change);
    }
    byTable
        .getOrDefault(shape.root(), Map.of())
        .forEach(
            (row, change) -> {
              RecordKey key = key(shape.key().stream().map(row::get).toList());
              if (key != null && shard.has(key)) {
                causes.putIfAbsent(key, change);
              }
            });
    List<FanOut> more = new ArrayList<>();
    inOneState(
        (c, s) -> {
          List<ShapeSql.Way> ways = s.waysBack();
          for (int number = 0; number < ways.size(); number++) {
            ShapeSql.Way way = ways.get(number);
            Map<Map<String, Object>, Change> rows = byTable.getOrDefault(way.table(), Map.of());
            Set<List<Object>> values =
                rows.keySet().stream()
                    .map(row -> way.columns().stream().map(row::get).toList())
                    .filter(list -> !list.contains(null))
                    .collect(Collectors.toCollection(LinkedHashSet::new));
            for (List<List<Object>> some : parts(List.copyOf(values))) {
              FanOut all = new FanOut(number, some, rows.values().iterator().next(), null);
              List<RecordKey> keys = follow(c, s, way.select(some.size(), limit + 1L), flat(some));
              if (keys.size() > limit) {
                more.add(all);
              } else {
                shard.own(keys).forEach(key -> causes.putIfAbsent(key, all.cause()));
              }
            }
          }
          return true;
        });
    return new Affected(causes, more);
  }

  @Override
  public Affected affected(FanOut more, int limit) throws SourceUnavailableException {
    return inOneState(
        (c, s) -> {
          ShapeSql.Way way = s.waysBack().get(more.way());
          List<Object> parameters = new ArrayList<>(flat(more.values()));
          parameters.addAll(betweenParameters(s, more.after(), null));
          List<RecordKey> keys =
              follow(
                  c,
                  s,
                  way.selectInOrder(more.values().size(), more.after() != null, limit),
                  parameters);
          Map<RecordKey, Change> causes = new LinkedHashMap<>();
          shard.own(keys).forEach(key -> causes.put(key, more.cause()));
          return new Affected(
              causes, keys.size() < limit ? List.of() : List.of(more.restAfter(keys.getLast())));
        });
  }

  private static @Nullable RecordKey key(List<@Nullable Object> values) {
    return values.contains(null)
        ? null
        : new RecordKey(values.stream().map(Object.class::cast).toList());
  }

  private List<RecordKey> follow(
      Connection connection, ShapeSql sql, String text, List<Object> parameters)
      throws SQLException {
    List<RecordKey> keys = new ArrayList<>();
    try (PreparedStatement select = connection.prepareStatement(text)) {
      bind(select, parameters);
      try (ResultSet rows = select.executeQuery()) {
        RowValues values = new RowValues(database, rows);
        while (rows.next()) {
          RecordKey key = key(sql, values);
          if (key != null) {
            keys.add(key);
          }
        }
      }
    }
    return keys;
  }

  /** Records being read: root rows first, then their to-many joins. */
  private static final class Batch {
    final Map<RecordKey, RecordContent> found = new LinkedHashMap<>();
    final Map<RecordKey, String> unreadable = new LinkedHashMap<>();
    int rows;
    @Nullable RecordKey last;

    /** Those of other shards included. */
    long seen;

    @Nullable RecordKey lastSeen;
  }

  private void readRoots(
      Connection connection, ShapeSql sql, String select, List<Object> parameters, Batch batch)
      throws SQLException {
    try (PreparedStatement statement = connection.prepareStatement(select)) {
      bind(statement, parameters);
      try (ResultSet rows = statement.executeQuery()) {
        RowValues values = new RowValues(database, rows);
        while (rows.next()) {
          readRoot(sql, values, batch);
        }
      }
    }
  }

  /** The key in a row's first columns; null if a part of it is null. */
  private static @Nullable RecordKey key(ShapeSql sql, RowValues row) throws SQLException {
    int columns = sql.keyColumns().size();
    List<Object> key = new ArrayList<>(columns);
    for (int column = 1; column <= columns; column++) {
      Object value = row.get(column);
      if (value == null) {
        return null;
      }
      if (value instanceof byte[]) {
        // A column of SQLite may hold bytes whatever its declared type. Two such keys never
        // compare.
        throw new IllegalStateException(
            "key column '%s' holds bytes in some row; key columns must be texts, numbers, dates or UUIDs"
                .formatted(sql.keyColumns().get(column - 1).replace("\"", "")));
      }
      key.add(value);
    }
    return new RecordKey(key);
  }

  private void readRoot(ShapeSql sql, RowValues row, Batch batch) throws SQLException {
    RecordKey recordKey = key(sql, row);
    if (recordKey == null) {
      return;
    }
    batch.seen++;
    batch.lastSeen = recordKey;
    if (!shard.has(recordKey)) {
      return;
    }
    int column = sql.keyColumns().size() + 1;
    batch.rows++;
    batch.last = recordKey;
    RecordContent content = sql.content();
    for (ShapeSql.Output output : sql.rootOutputs()) {
      Object value = output.file() ? row.file(column) : row.get(column);
      column += output.file() ? 2 : 1;
      if (value instanceof byte[]) {
        batch.unreadable.put(recordKey, "column '" + output + "' contains bytes instead of text");
        return;
      }
      if (value != null) {
        put(sql, content, output, value);
      }
    }
    if (batch.found.put(recordKey, content) != null) {
      batch.unreadable.put(
          recordKey, "a join that is not 'many' found several rows; write 'many: true'");
    }
  }

  private static void put(
      ShapeSql sql, RecordContent content, ShapeSql.Output output, Object value) {
    if (output.kind() == ShapeSql.Output.Kind.EXPRESSION) {
      content.computed().put(output.column(), value);
    } else if (output.join() == null) {
      content.columns().put(output.column(), value);
    } else {
      Row row = (Row) content.columns().computeIfAbsent(output.join(), sql::joinRow);
      row.put(output.column(), value);
    }
  }

  private Records finish(Connection connection, ShapeSql sql, Batch batch) throws SQLException {
    batch.unreadable.keySet().forEach(batch.found::remove);
    for (Join join : shape.joins()) {
      if (join.many()) {
        readMany(connection, sql, join, batch);
      }
    }
    batch.unreadable.keySet().forEach(batch.found::remove);
    List<AssembledRecord> records = new ArrayList<>();
    batch.found.forEach((key, content) -> records.add(new AssembledRecord(key, content)));
    return new Records(records, batch.unreadable, batch.rows, batch.last);
  }

  private void readMany(Connection connection, ShapeSql sql, Join join, Batch batch)
      throws SQLException {
    List<ShapeSql.Output> outputs = sql.manyOutputs(join);
    for (List<List<Object>> some : parts(rows(sql, batch.found.keySet()))) {
      try (PreparedStatement select = connection.prepareStatement(sql.many(join, some.size()))) {
        bind(select, flat(some));
        try (ResultSet rows = select.executeQuery()) {
          RowValues values = new RowValues(database, rows);
          while (rows.next()) {
            readRelated(sql, values, join, outputs, batch);
          }
        }
      }
    }
  }

  private static void readRelated(
      ShapeSql sql, RowValues row, Join join, List<ShapeSql.Output> outputs, Batch batch)
      throws SQLException {
    RecordKey recordKey = Objects.requireNonNull(key(sql, row));
    int column = sql.keyColumns().size() + 1;
    Row related = sql.joinRow(join.name());
    for (ShapeSql.Output output : outputs) {
      Object value = output.file() ? row.file(column) : row.get(column);
      column += output.file() ? 2 : 1;
      if (value instanceof byte[]) {
        batch.unreadable.put(recordKey, "column '" + output + "' contains bytes instead of text");
      } else if (value != null) {
        related.put(output.column(), value);
      }
    }
    addRow(batch.found.get(recordKey), join, related);
  }

  @SuppressWarnings("unchecked")
  private static void addRow(@Nullable RecordContent content, Join join, Row row) {
    if (content != null) {
      List<Object> rows =
          (List<Object>) content.columns().computeIfAbsent(join.name(), name -> new ArrayList<>());
      if (join.limit() == 0 || rows.size() < join.limit()) {
        rows.add(row);
      }
    }
  }

  private static List<Object> flat(List<List<Object>> rows) {
    return rows.stream().flatMap(List::stream).toList();
  }

  private static void bind(PreparedStatement statement, List<Object> values) throws SQLException {
    for (int i = 0; i < values.size(); i++) {
      statement.setObject(i + 1, values.get(i));
    }
  }

  private static <T> List<List<T>> parts(List<T> all) {
    List<List<T>> parts = new ArrayList<>();
    for (int from = 0; from < all.size(); from += KEYS_PER_STATEMENT) {
      parts.add(all.subList(from, Math.min(all.size(), from + KEYS_PER_STATEMENT)));
    }
    return parts;
  }

  private <T extends @Nullable Object> T inOneState(Work<T> work)
      throws SourceUnavailableException {
    return connections.use(
        open -> {
          ShapeSql statements = sql;
          if (statements == null) {
            ReadColumns known =
                columns == null
                    ? ReadColumns.of(shape, database.catalogue(open), Map.of())
                    : columns;
            statements = new ShapeSql(database.sql(), shape, known, expressions);
            sql = statements;
          }
          database.beginReading(open);
          try {
            return work.on(open, statements);
          } finally {
            open.rollback();
          }
        });
  }

  @FunctionalInterface
  private interface Work<T extends @Nullable Object> {
    T on(Connection connection, ShapeSql sql) throws SQLException;
  }

  @Override
  public void abort() {
    connections.abort();
  }

  @Override
  public void close() {
    connections.close();
  }
}
