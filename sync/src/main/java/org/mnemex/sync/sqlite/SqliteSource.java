package org.mnemex.sync.sqlite;

import java.nio.file.Files;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.sqlite.SQLiteConfig;
import org.sqlite.SQLiteOpenMode;

/** An SQLite database file as a source. */
public final class SqliteSource implements Source {
  private static final int BUSY_MILLIS = 5000;

  private final SourceDefinition definition;

  public SqliteSource(SourceDefinition definition) {
    this.definition = definition;
  }

  @Override
  public String name() {
    return definition.name();
  }

  /** A connection to the file, which must exist: SQLite would otherwise make an empty one. */
  Connection connect() throws SourceUnavailableException {
    if (!Files.isRegularFile(definition.file())) {
      throw new SourceUnavailableException(
          "database file " + definition.file() + " is not there", null);
    }
    SQLiteConfig config = new SQLiteConfig();
    config.resetOpenMode(SQLiteOpenMode.CREATE);
    config.setBusyTimeout(BUSY_MILLIS);
    // What we write there is our own bookkeeping; waiting for the disk would only hold up others.
    config.setSynchronous(SQLiteConfig.SynchronousMode.NORMAL);
    try {
      return config.createConnection("jdbc:sqlite:" + definition.file().toAbsolutePath());
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  SourceUnavailableException unavailable(SQLException cause) {
    return new SourceUnavailableException(
        "database " + definition.file() + ": " + cause.getMessage(), cause);
  }

  @Override
  public Catalogue catalogue() throws SourceUnavailableException {
    try (Connection connection = connect();
        Statement statement = connection.createStatement()) {
      return catalogue(statement);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  static Catalogue catalogue(Statement statement) throws SQLException {
    Map<String, Boolean> views = new TreeMap<>();
    try (ResultSet rows =
        statement.executeQuery(
            "SELECT name, type FROM sqlite_master WHERE type IN ('table', 'view')"
                + " AND name NOT LIKE 'sqlite!_%' ESCAPE '!' AND name NOT LIKE 'mnemex!_%' ESCAPE '!'")) {
      while (rows.next()) {
        views.put(rows.getString(1), rows.getString(2).equals("view"));
      }
    }
    Map<String, Catalogue.Table> tables = new TreeMap<>();
    for (Map.Entry<String, Boolean> entry : views.entrySet()) {
      List<Catalogue.Column> columns = new ArrayList<>();
      Map<Integer, String> key = new TreeMap<>();
      try (ResultSet rows =
          statement.executeQuery("PRAGMA table_info(" + Sql.name(entry.getKey()) + ")")) {
        while (rows.next()) {
          String type = rows.getString("type").toUpperCase(Locale.ROOT);
          columns.add(new Catalogue.Column(rows.getString("name"), type, type.contains("BLOB")));
          if (rows.getInt("pk") > 0) {
            key.put(rows.getInt("pk"), rows.getString("name"));
          }
        }
      }
      tables.put(
          entry.getKey(),
          new Catalogue.Table(
              entry.getKey(), entry.getValue(), columns, List.copyOf(key.values())));
    }
    return new Catalogue(tables);
  }

  @Override
  public void prepare(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException {
    try (Connection connection = connect()) {
      SqliteJournal.prepare(connection, columnsByTable, definition);
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  @Override
  public Capture capture(String reader) {
    return new SqliteCapture(this, reader);
  }

  @Override
  public RecordReader reader(RecordShape shape, Map<String, String> expressions) {
    return new SqliteRecordReader(this, shape, expressions);
  }
}
