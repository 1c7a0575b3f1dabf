package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.shared.SharedCapture;
import org.mnemex.sync.shared.SharedReading;
import org.mnemex.sync.shared.WindowLimits;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.CatalogueCheck;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableNotes;

/** The common part of SQL databases as sources. */
public abstract class SqlSource implements Source, SqlDatabase {
  private static final int VALID_SECONDS = 5;

  /** The name of what reads for all readers; nothing is kept for it. */
  private static final String FOR_ALL = "all readers";

  private final SourceDefinition definition;
  private final Map<String, Set<String>> watched = new ConcurrentHashMap<>();
  private final SharedReading reading;
  private @Nullable SeenTables seen;

  protected SqlSource(SourceDefinition definition) {
    this.definition = definition;
    this.reading =
        new SharedReading(
            definition.name(),
            () -> wanted().open(FOR_ALL, Map.of()),
            watched::keySet,
            WindowLimits.USUAL);
  }

  @Override
  public final String name() {
    return definition.name();
  }

  /** The watched columns of a table; empty if it is not watched. */
  public final Set<String> watched(String table) {
    return watched.getOrDefault(table, Set.of());
  }

  /** The capture method, if not by watermarks. */
  protected abstract CaptureMethod method();

  private CaptureMethod wanted() {
    return definition.following().capture() instanceof SourceDefinition.Poll poll
        ? new PollMethod(this, poll)
        : method();
  }

  /** Its requirements, in the order in which to meet them. */
  private List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    return wanted().requirements(connection, columnsByTable);
  }

  /** The text that a query answers; empty if none. */
  protected final String ask(String sql) throws SourceUnavailableException {
    try (Connection connection = connect();
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(sql)) {
      String text = rows.next() ? rows.getString(1) : null;
      return text == null ? "" : text;
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public Capture capture(String reader, Map<String, Set<String>> columnsByTable) {
    CaptureMethod method = wanted();
    Capture own = method.open(reader, columnsByTable);
    return method.canReadForAll() && !columnsByTable.isEmpty()
        ? new SharedCapture(reading, own, columnsByTable)
        : own;
  }

  @Override
  public final List<String> removal(OwnReaders own) throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return wanted().removal(connection, own);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final void forget(OwnReaders own) throws SourceUnavailableException {
    try (Connection connection = connect();
        Statement statement = connection.createStatement()) {
      for (String sql : wanted().removal(connection, own)) {
        statement.execute(sql);
      }
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final List<SourceReader> readers() throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return wanted().readers(connection);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final Map<String, SourceReader> retained(Set<String> readers)
      throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return wanted().retained(connection, readers);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final String readerName(String reader) {
    return wanted().readerName(reader);
  }

  @Override
  public final void dropReader(String name) throws SourceUnavailableException {
    try (Connection connection = connect()) {
      wanted().dropReader(connection, name);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final Duration lookInterval() {
    return definition.following().capture() instanceof SourceDefinition.Poll poll
        ? poll.every()
        : Duration.ZERO;
  }

  /** Starts a transaction that excludes other services from preparing the same database. */
  protected abstract void beginPreparing(Connection connection) throws SQLException;

  @Override
  public final void check(IndexDefinition index) throws SourceUnavailableException {
    CatalogueCheck.check(index, catalogue());
  }

  @Override
  public final Catalogue catalogue() throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return catalogue(connection);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final Map<String, TableNotes> notes(Set<String> tables) throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return notes(connection, tables);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final List<Map<String, Object>> sample(String table, List<String> columns, int limit)
      throws SourceUnavailableException {
    String sql =
        "SELECT %s FROM %s LIMIT %d"
            .formatted(
                Sql.list(columns.stream().map(sql()::name).toList()), sql().name(table), limit);
    try (Connection connection = connect()) {
      beginReading(connection);
      List<Map<String, Object>> all = new ArrayList<>();
      try (Statement statement = connection.createStatement();
          ResultSet rows = statement.executeQuery(sql)) {
        List<ValueReader> readers = new ArrayList<>();
        for (int i = 1; i <= columns.size(); i++) {
          readers.add(valueReader(rows.getMetaData(), i));
        }
        while (rows.next()) {
          Map<String, Object> row = new LinkedHashMap<>();
          for (int i = 0; i < columns.size(); i++) {
            Object value = readers.get(i).read(rows, i + 1);
            if (value != null && !(value instanceof byte[])) {
              row.put(columns.get(i), value);
            }
          }
          all.add(row);
        }
      }
      connection.rollback();
      return all;
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public final List<Requirement> requirements(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException {
    try (Connections connections = connections(() -> {})) {
      return connections.use(
          open -> {
            beginReading(open);
            try {
              return requirements(open, columnsByTable);
            } finally {
              open.rollback();
            }
          });
    }
  }

  /** Actions of the database on related rows that are not captured. */
  protected List<Requirement> silentChanges(Connection connection, RecordShape shape)
      throws SQLException {
    return List.of();
  }

  @Override
  public final List<Requirement> advice(RecordShape shape) throws SourceUnavailableException {
    try (Connection connection = connect()) {
      List<Requirement> all = new ArrayList<>();
      Catalogue catalogue = catalogue(connection);
      shape
          .lookups()
          .forEach(
              (name, lookups) -> {
                Catalogue.Table table = catalogue.table(name);
                if (table != null && !table.view()) {
                  lookups.forEach(columns -> all.add(indexed(table, columns)));
                }
              });
      all.addAll(silentChanges(connection, shape));
      return all;
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  private Requirement indexed(Catalogue.Table table, Set<String> columns) {
    String list = String.join(", ", columns);
    return new Requirement(
        "table '%s' has an index on %s, used to look up rows".formatted(table.name(), list),
        columns.stream().anyMatch(table.indexed()::contains),
        List.of(newIndex(table.name(), columns)),
        Requirement.Kind.ADVICE);
  }

  /** The statement that makes an index on columns of a table. */
  final String newIndex(String table, Set<String> columns) {
    return "CREATE INDEX %s ON %s (%s);"
        .formatted(
            sql().name(table + "_" + String.join("_", columns)),
            qualified(table),
            String.join(", ", columns.stream().map(sql()::name).toList()));
  }

  /** The name of a table in statements for others, who may look for it in other schemas. */
  protected String qualified(String table) {
    return sql().name(table);
  }

  @Override
  public final void prepare(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException {
    try (Connection connection = connect()) {
      beginPreparing(connection);
      try {
        List<Requirement> missing = missing(connection, columnsByTable);
        boolean mayMake =
            definition.following().mayPrepare()
                && missing.stream().allMatch(r -> r.kind() == Requirement.Kind.PREPARABLE);
        if (!mayMake && !missing.isEmpty()) {
          throw new NotPreparedException(name(), missing);
        }
        run(connection, missing);
        connection.commit();
      } finally {
        connection.rollback();
      }
    } catch (SQLException e) {
      throw unavailable(e);
    }
    columnsByTable.forEach(
        (table, columns) -> watched.merge(table, Set.copyOf(columns), SqlSource::union));
  }

  @Override
  public final void make(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException {
    try (Connection connection = connect()) {
      beginPreparing(connection);
      try {
        run(
            connection,
            missing(connection, columnsByTable).stream()
                .filter(r -> r.kind() == Requirement.Kind.PREPARABLE)
                .toList());
        connection.commit();
      } finally {
        connection.rollback();
      }
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  private List<Requirement> missing(Connection connection, Map<String, Set<String>> columnsByTable)
      throws SQLException {
    return requirements(connection, columnsByTable).stream()
        .filter(Requirement::isMissing)
        .toList();
  }

  private void run(Connection connection, List<Requirement> missing)
      throws SQLException, NotPreparedException {
    List<String> all = missing.stream().flatMap(r -> r.statements().stream()).toList();
    try (Statement statement = connection.createStatement()) {
      for (int i = 0; i < all.size(); i++) {
        try {
          statement.execute(all.get(i));
        } catch (SQLException e) {
          if (connection.isClosed() || !connection.isValid(VALID_SECONDS)) {
            throw e;
          }
          throw NotPreparedException.refused(
              name(),
              all.get(i),
              e,
              sql().hasTransactionalTables() ? List.of() : all.subList(0, i),
              sql().hasTransactionalTables() ? all : all.subList(i, all.size()));
        }
      }
    }
  }

  private static Set<String> union(Set<String> one, Set<String> other) {
    Set<String> both = new TreeSet<>(one);
    both.addAll(other);
    return both;
  }

  @Override
  public final ReadColumns columns(RecordShape shape) throws SourceUnavailableException {
    try (Connections connections = connections(() -> {})) {
      return connections.use(
          open -> {
            beginReading(open);
            try {
              return ReadColumns.of(
                  shape, catalogue(open), identities(open, shape.watchedColumns().keySet()));
            } finally {
              open.rollback();
            }
          });
    }
  }

  @Override
  public final @Nullable ReadColumns seenColumns(RecordShape shape, Duration age)
      throws SourceUnavailableException {
    SeenTables tables = seenTables(age);
    return tables.areCaptured(shape) ? tables.columns(shape) : null;
  }

  private synchronized SeenTables seenTables(Duration age) throws SourceUnavailableException {
    SeenTables known = seen;
    if (known == null || !known.isYoungerThan(age)) {
      Map<String, Set<String>> tables = Map.copyOf(watched);
      try (Connections connections = connections(() -> {})) {
        known = connections.use(open -> look(open, tables));
      }
      seen = known;
    }
    return known;
  }

  private SeenTables look(Connection connection, Map<String, Set<String>> tables)
      throws SQLException {
    long now = System.nanoTime();
    beginReading(connection);
    try {
      return new SeenTables(
          catalogue(connection),
          identities(connection, tables.keySet()),
          tables,
          requirements(connection, tables).stream()
              .noneMatch(r -> r.isMissing() && r.kind() == Requirement.Kind.PREPARABLE),
          now);
    } finally {
      connection.rollback();
    }
  }

  @Override
  public RecordReader reader(
      RecordShape shape,
      Map<String, String> expressions,
      @Nullable ReadColumns columns,
      Shard shard) {
    return new JdbcRecordReader(this, shape, expressions, columns, shard);
  }

  @Override
  public final Position position(String text) {
    try {
      Position told = positionAsTold(text);
      return told == null ? Position.parse(text) : told;
    } catch (NumberFormatException e) {
      throw new IllegalArgumentException("'" + text + "' is not a position", e);
    }
  }

  /** Parses a position in this database's notation; null if it is not one. */
  protected abstract @Nullable Position positionAsTold(String text);

  @Override
  public final int recordsPerSecond() {
    return definition.following().recordsPerSecond();
  }

  @Override
  public final long mostRetained() {
    return definition.following().mostRetained();
  }
}
