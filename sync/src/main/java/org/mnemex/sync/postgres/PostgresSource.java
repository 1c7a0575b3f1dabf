package org.mnemex.sync.postgres;

import java.io.IOException;
import java.net.URLEncoder;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.definition.Tls;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.ConnectionPool;
import org.mnemex.sync.record.Connections;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.record.SqlSource;
import org.mnemex.sync.shared.WindowLimits;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReaderPositions;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableIdentity;
import org.mnemex.sync.source.TableNotes;
import org.postgresql.PGProperty;
import org.postgresql.replication.LogSequenceNumber;

/** A PostgreSQL database as a source, 13 or newer. */
public final class PostgresSource extends SqlSource {
  private static final int CONNECT_SECONDS = 10;

  /** Without an answer for this long, the connection is considered lost. */
  private static final int SOCKET_SECONDS = 120;

  private static final int STATEMENT_MARGIN = 10;
  private static final String OPTIONS = "-c DateStyle=ISO";

  /** The driver asks for this process's zone, whatever the options say. */
  private static final String IN_UTC = "SET TimeZone = 'UTC'";

  /**
   * We read some rows at a time, by key. The server often expects far more rows of a key than there
   * are, and would then read a whole table for each portion, or compile the query, which takes
   * longer than running it. A table without an index is still read, as there is no other way.
   */
  private static final String LOOKUPS = " -c enable_seqscan=off -c jit=off";

  /** A share of the heap, in the driver's notation. */
  private static final String MAX_RESULT_SHARE = "30pct";

  private final ConnectionPool pool = new ConnectionPool(this);
  private final SourceDefinition.Server definition;
  private final ReaderPositions positions;
  private final WindowLimits limits;
  private final Map<String, LogReceiver> receivers = new ConcurrentHashMap<>();

  /** A database whose readers are those that this object opens. */
  public PostgresSource(SourceDefinition.Server definition) {
    this(definition, new ReaderPositions());
  }

  /**
   * A database.
   *
   * @param positions how far its readers are; shared by all objects for the same database
   */
  public PostgresSource(SourceDefinition.Server definition, ReaderPositions positions) {
    this(definition, positions, WindowLimits.USUAL);
  }

  PostgresSource(
      SourceDefinition.Server definition, ReaderPositions positions, WindowLimits limits) {
    super(definition);
    this.definition = definition;
    this.positions = positions;
    this.limits = limits;
  }

  /** What limits the part of the log that is held for its readers. */
  WindowLimits limits() {
    return limits;
  }

  /** What reads the log for a reader and the others of its installation. */
  LogReceiver receiver(String reader) {
    return receivers.computeIfAbsent(
        SlotNames.installation(reader),
        installation -> new LogReceiver(this, installation, positions));
  }

  String schema() {
    return definition.schema();
  }

  String publication() {
    return PostgresSetup.publication(definition.name());
  }

  @Override
  public Connection connect() throws SourceUnavailableException {
    Properties properties = properties();
    PGProperty.SOCKET_TIMEOUT.set(properties, SOCKET_SECONDS);
    // The server's statement timeout, shorter than our socket timeout.
    PGProperty.OPTIONS.set(
        properties,
        OPTIONS + LOOKUPS + " -c statement_timeout=" + (SOCKET_SECONDS - STATEMENT_MARGIN) + "s");
    // Rows that do not fit into memory are refused.
    PGProperty.MAX_RESULT_BUFFER.set(properties, MAX_RESULT_SHARE);
    PGProperty.CURRENT_SCHEMA.set(properties, Sql.POSTGRES.name(definition.schema()));
    // A statement that is repeated would otherwise get "45.0" where it got "45" before.
    PGProperty.BINARY_TRANSFER.set(properties, false);
    PGProperty.BINARY_TRANSFER_DISABLE.set(properties, "point,box");
    // Bytes are the same either way, and half as long.
    PGProperty.BINARY_TRANSFER_ENABLE.set(properties, "bytea");
    // Keys are sent as text; the server infers their types.
    PGProperty.STRING_TYPE.set(properties, "unspecified");
    return open(properties);
  }

  /**
   * A connection that speaks the replication protocol.
   *
   * @param socket its socket, by which it can be waited for
   */
  record Replication(Connection connection, ArrivalSocket socket) {}

  /** A connection that speaks the replication protocol. */
  Replication connectForReplication() throws SourceUnavailableException {
    Properties properties = properties();
    String name = ArrivalSocketFactory.use(properties);
    PGProperty.REPLICATION.set(properties, "database");
    PGProperty.PREFER_QUERY_MODE.set(properties, "simple");
    PGProperty.ASSUME_MIN_SERVER_VERSION.set(properties, "13");
    try {
      return new Replication(open(properties), ArrivalSocketFactory.take(name));
    } finally {
      ArrivalSocketFactory.forget(name);
    }
  }

  private Properties properties() throws SourceUnavailableException {
    Properties properties = new Properties();
    PGProperty.USER.set(properties, definition.user());
    PGProperty.PASSWORD.set(properties, definition.password().reveal());
    PGProperty.APPLICATION_NAME.set(properties, "mnemex");
    PGProperty.CONNECT_TIMEOUT.set(properties, CONNECT_SECONDS);
    PGProperty.LOGIN_TIMEOUT.set(properties, CONNECT_SECONDS);
    PGProperty.TCP_KEEP_ALIVE.set(properties, true);
    PGProperty.OPTIONS.set(properties, OPTIONS);
    Tls tls = definition.tls();
    if (tls.mode() != Tls.Mode.USUAL) {
      PGProperty.SSL_MODE.set(properties, tls.mode().word());
    }
    if (tls.mode().verifies()) {
      try {
        VerifiedSocketFactory.use(tls, properties);
      } catch (IOException e) {
        throw unavailable(String.valueOf(e), e);
      }
    }
    return properties;
  }

  private Connection open(Properties properties) throws SourceUnavailableException {
    String url =
        "jdbc:postgresql://%s:%d/%s"
            .formatted(
                definition.host(),
                definition.port(),
                URLEncoder.encode(definition.database(), StandardCharsets.UTF_8));
    try {
      Connection connection = DriverManager.getConnection(url, properties);
      try (Statement statement = connection.createStatement()) {
        statement.execute(IN_UTC);
      } catch (SQLException e) {
        connection.close();
        throw e;
      }
      return connection;
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public SourceUnavailableException unavailable(SQLException cause) {
    // The driver says only that it could not connect.
    return cause.getCause() instanceof UnknownHostException
        ? unavailable("the name of the host is not known", cause)
        : unavailable(String.valueOf(cause.getMessage()), cause);
  }

  private SourceUnavailableException unavailable(String why, Throwable cause) {
    return new SourceUnavailableException(
        definition
            .masks()
            .mask(
                "PostgreSQL database '%s' on %s:%d: %s"
                    .formatted(definition.database(), definition.host(), definition.port(), why)),
        cause);
  }

  @Override
  public Boolean isEncrypted() throws SourceUnavailableException {
    return ask("SELECT ssl::text FROM pg_stat_ssl WHERE pid = pg_backend_pid()").equals("true");
  }

  @Override
  protected String qualified(String table) {
    return Sql.POSTGRES.column(schema(), table);
  }

  @Override
  public Map<String, List<String>> unreadable(Set<String> tables)
      throws SourceUnavailableException {
    try (Connection connection = connect()) {
      return new ReadingRights(connection, schema()).unreadable(tables);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public Catalogue catalogue(Connection connection) throws SQLException {
    return PostgresCatalogue.read(connection, definition.schema());
  }

  @Override
  public Map<String, TableIdentity> identities(Connection connection, Set<String> tables)
      throws SQLException {
    return PostgresCatalogue.identities(connection, schema(), tables);
  }

  @Override
  public long estimate(Connection connection, String table) throws SQLException {
    return PostgresCatalogue.estimate(connection, qualified(table));
  }

  @Override
  public Map<String, TableNotes> notes(Connection connection, Set<String> tables)
      throws SQLException {
    return PostgresCatalogue.notes(connection, definition.schema(), tables);
  }

  @Override
  protected CaptureMethod method() {
    return definition.following().capture() instanceof SourceDefinition.Journal
        ? new PostgresJournal(this)
        : new LogMethod(this, positions);
  }

  @Override
  protected void beginPreparing(Connection connection) throws SQLException {
    connection.setAutoCommit(false);
    try (Statement statement = connection.createStatement()) {
      statement.execute("SELECT pg_advisory_xact_lock(hashtext('mnemex prepare'))");
    }
  }

  @Override
  protected @Nullable Position positionAsTold(String text) {
    return told(text);
  }

  /** A position as PostgreSQL writes it, such as {@code 0/16B3748}; null if it is not one. */
  public static @Nullable Position told(String text) {
    if (text.matches("\\d+")) {
      return new Position("", Long.parseLong(text));
    }
    return text.matches("[0-9A-Fa-f]{1,8}/[0-9A-Fa-f]{1,8}")
        ? new Position("", LogSequenceNumber.valueOf(text).asLong())
        : null;
  }

  @Override
  public TimeType timeType(String type) {
    return !type.startsWith("timestamp")
        ? TimeType.NONE
        : type.endsWith("with time zone") ? TimeType.UTC : TimeType.LOCAL;
  }

  @Override
  public Sql sql() {
    return Sql.POSTGRES;
  }

  @Override
  public Connections connections(Runnable givenUp) {
    return pool.lent(givenUp);
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
  public ValueReader valueReader(ResultSetMetaData columns, int column) throws SQLException {
    return PostgresValues.reader(columns.getColumnTypeName(column));
  }
}
