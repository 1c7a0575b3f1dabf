package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.record.JdbcRecordReader;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.record.SqlDatabase;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.postgresql.PGProperty;

/** A PostgreSQL database as a source, 12 or newer. */
public final class PostgresSource implements Source, SqlDatabase {
  private static final int CONNECT_SECONDS = 10;

  /** No answer for so long means that the network was cut without a word. */
  private static final int SOCKET_SECONDS = 120;

  private final SourceDefinition.Server definition;
  private final Map<String, Set<String>> watched = new ConcurrentHashMap<>();

  public PostgresSource(SourceDefinition.Server definition) {
    this.definition = definition;
  }

  @Override
  public String name() {
    return definition.name();
  }

  String schema() {
    return definition.schema();
  }

  String publication() {
    return PostgresSetup.publication(definition.name());
  }

  /** The columns of a table that changes are told with; empty if it is not watched. */
  Set<String> watched(String table) {
    return watched.getOrDefault(table, Set.of());
  }

  @Override
  public Connection connect() throws SourceUnavailableException {
    Properties properties = properties();
    PGProperty.SOCKET_TIMEOUT.set(properties, SOCKET_SECONDS);
    PGProperty.CURRENT_SCHEMA.set(properties, Sql.POSTGRES.name(definition.schema()));
    // Keys are sent as texts; the server knows what type they are compared with.
    PGProperty.STRING_TYPE.set(properties, "unspecified");
    return open(properties);
  }

  /** A connection that speaks the replication protocol. */
  Connection connectForReplication() throws SourceUnavailableException {
    Properties properties = properties();
    PGProperty.REPLICATION.set(properties, "database");
    PGProperty.PREFER_QUERY_MODE.set(properties, "simple");
    PGProperty.ASSUME_MIN_SERVER_VERSION.set(properties, "12");
    return open(properties);
  }

  private Properties properties() {
    Properties properties = new Properties();
    PGProperty.USER.set(properties, definition.user());
    PGProperty.PASSWORD.set(properties, definition.password().reveal());
    PGProperty.APPLICATION_NAME.set(properties, "mnemex");
    PGProperty.CONNECT_TIMEOUT.set(properties, CONNECT_SECONDS);
    PGProperty.LOGIN_TIMEOUT.set(properties, CONNECT_SECONDS);
    PGProperty.TCP_KEEP_ALIVE.set(properties, true);
    PGProperty.OPTIONS.set(properties, "-c TimeZone=UTC -c DateStyle=ISO");
    return properties;
  }

  private Connection open(Properties properties) throws SourceUnavailableException {
    String url =
        "jdbc:postgresql://%s:%d/%s"
            .formatted(
                definition.host(),
                definition.port(),
                java.net.URLEncoder.encode(
                    definition.database(), java.nio.charset.StandardCharsets.UTF_8));
    try {
      return DriverManager.getConnection(url, properties);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public SourceUnavailableException unavailable(SQLException cause) {
    return new SourceUnavailableException(
        "PostgreSQL database '%s' on %s:%d: %s"
            .formatted(
                definition.database(), definition.host(), definition.port(), cause.getMessage()),
        cause);
  }

  @Override
  public Catalogue catalogue() throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return catalogue(connection);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public Catalogue catalogue(Connection connection) throws SQLException {
    return PostgresCatalogue.read(connection, definition.schema());
  }

  @Override
  public List<Requirement> requirements(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return setup(connection).requirements(columnsByTable);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  private PostgresSetup setup(Connection connection) {
    return new PostgresSetup(connection, definition.schema(), publication());
  }

  @Override
  public void prepare(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException {
    try (Connection connection = connect()) {
      PostgresSetup setup = setup(connection);
      List<Requirement> missing =
          setup.requirements(columnsByTable).stream().filter(r -> !r.met()).toList();
      if (missing.stream().anyMatch(r -> r.byAdministrator() || !definition.mayPrepare())) {
        throw new NotPreparedException(
            name(), missing.stream().flatMap(r -> r.statements().stream()).toList());
      }
      setup.make(missing);
    } catch (SQLException e) {
      throw unavailable(e);
    }
    columnsByTable.forEach(
        (table, columns) ->
            watched.merge(
                table,
                Set.copyOf(columns),
                (a, b) -> {
                  Set<String> both = new TreeSet<>(a);
                  both.addAll(b);
                  return both;
                }));
  }

  @Override
  public Capture capture(String reader) {
    return new LogCapture(this, reader);
  }

  @Override
  public RecordReader reader(RecordShape shape, Map<String, String> expressions) {
    return new JdbcRecordReader(this, shape, expressions);
  }

  @Override
  public Sql sql() {
    return Sql.POSTGRES;
  }

  @Override
  public void beginReading(Connection connection) throws SQLException {
    if (connection.getAutoCommit()) {
      connection.setReadOnly(true);
      connection.setTransactionIsolation(Connection.TRANSACTION_REPEATABLE_READ);
      connection.setAutoCommit(false);
    }
  }

  @Override
  public @Nullable Object value(ResultSet rows, int column) throws SQLException {
    return PostgresValues.of(rows, column);
  }
}
