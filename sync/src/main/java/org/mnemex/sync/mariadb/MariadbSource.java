package org.mnemex.sync.mariadb;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.definition.Tls;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.ConnectionPool;
import org.mnemex.sync.record.Connections;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.record.SqlSource;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableNotes;

/**
 * A MariaDB database as a source, 10.5 or newer.
 *
 * <p>Sessions use standard SQL ({@code sql_mode = 'ANSI'}: names in double quotes, {@code ||}
 * concatenates) and UTC, so that one definition works with every kind of database.
 */
public final class MariadbSource extends SqlSource {
  private static final int CONNECT_MILLIS = 10_000;

  /** Without an answer for this long, the connection is considered lost. */
  private static final int SOCKET_MILLIS = 120_000;

  /** The server's statement timeout, shorter than our socket timeout. */
  private static final int STATEMENT_SECONDS = 110;

  private final ConnectionPool pool = new ConnectionPool(this);
  private final SourceDefinition.Server definition;

  public MariadbSource(SourceDefinition.Server definition) {
    super(definition);
    this.definition = definition;
  }

  SourceDefinition.Server definition() {
    return definition;
  }

  @Override
  public Connection connect() throws SourceUnavailableException {
    Properties properties = new Properties();
    properties.setProperty("user", definition.user());
    properties.setProperty("password", definition.password().reveal());
    properties.setProperty("connectTimeout", Integer.toString(CONNECT_MILLIS));
    properties.setProperty("socketTimeout", Integer.toString(SOCKET_MILLIS));
    properties.setProperty("tinyInt1isBit", "false");
    // A server must not be able to ask for files of this machine.
    properties.setProperty("allowLocalInfile", "false");
    properties.setProperty(
        "sessionVariables",
        "sql_mode='ANSI',time_zone='+00:00',max_statement_time=" + STATEMENT_SECONDS);
    Tls tls = definition.tls();
    switch (tls.mode()) {
      case USUAL -> {}
      case REQUIRE -> properties.setProperty("sslMode", "trust");
      case VERIFY_CA, VERIFY_FULL -> properties.setProperty("sslMode", tls.mode().word());
    }
    if (tls.authorities() != null) {
      properties.setProperty("serverSslCert", tls.authorities().toString());
    }
    if (tls.identity() != null) {
      ClientCertificates.show(tls.identity(), properties);
    }
    String url = "jdbc:mariadb://%s:%d/".formatted(definition.host(), definition.port());
    try {
      Connection connection = DriverManager.getConnection(url, properties);
      try {
        // Not in the URL, where the driver does not decode escaped names.
        connection.setCatalog(definition.database());
        return connection;
      } catch (SQLException e) {
        connection.close();
        throw e;
      }
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public SourceUnavailableException unavailable(SQLException cause) {
    return unavailable(cause.getMessage(), cause);
  }

  SourceUnavailableException unavailable(String why, Throwable cause) {
    return new SourceUnavailableException(
        definition
            .masks()
            .mask(
                "MariaDB database '%s' on %s:%d: %s"
                    .formatted(definition.database(), definition.host(), definition.port(), why)),
        cause);
  }

  @Override
  public Boolean isEncrypted() throws SourceUnavailableException {
    return !ask("SELECT variable_value FROM information_schema.session_status"
            + " WHERE variable_name = 'SSL_CIPHER'")
        .isEmpty();
  }

  @Override
  public Catalogue catalogue(Connection connection) throws SQLException {
    return MariadbCatalogue.read(connection, definition.database());
  }

  @Override
  public long estimate(Connection connection, String table) throws SQLException {
    return MariadbCatalogue.estimate(connection, definition.database(), table);
  }

  @Override
  public Map<String, TableNotes> notes(Connection connection, Set<String> tables)
      throws SQLException {
    return MariadbCatalogue.notes(connection, definition.database(), tables);
  }

  @Override
  protected CaptureMethod method() {
    return definition.following().capture() instanceof SourceDefinition.Journal
        ? new MariadbJournal(this)
        : new BinlogMethod(this);
  }

  @Override
  protected List<Requirement> silentChanges(Connection connection, RecordShape shape)
      throws SQLException {
    List<Requirement> all =
        new ArrayList<>(new BinlogSetup(connection, definition).silentChanges(shape));
    if (definition.following().capture() instanceof SourceDefinition.Journal) {
      all.add(MariadbJournal.UNSEEN);
    }
    return all;
  }

  @Override
  protected void beginPreparing(Connection connection) throws SQLException {
    connection.setAutoCommit(false);
  }

  @Override
  protected @Nullable Position positionAsTold(String text) {
    return told(text);
  }

  /** A position as MariaDB writes it, such as {@code 0-1-42}; null if it is not one. */
  public static @Nullable Position told(String text) {
    if (text.matches("\\d+")) {
      return new Position("", Long.parseLong(text));
    }
    return text.matches("\\d+-\\d+-\\d+") ? BinlogDecoder.position(text) : null;
  }

  @Override
  public Sql sql() {
    return Sql.MARIADB;
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
    return MariadbValues.reader(
        columns.getColumnType(column),
        columns.getColumnTypeName(column),
        columns.getPrecision(column));
  }
}
