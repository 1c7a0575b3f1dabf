package org.mnemex.sync.sqlite;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.attribute.BasicFileAttributes;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.record.SqlSource;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableNotes;
import org.sqlite.SQLiteConfig;
import org.sqlite.SQLiteOpenMode;

/** An SQLite database file as a source. */
public final class SqliteSource extends SqlSource {
  private static final int BUSY_MILLIS = 5000;

  private final SourceDefinition.Sqlite definition;

  public SqliteSource(SourceDefinition.Sqlite definition) {
    super(definition);
    this.definition = definition;
  }

  /** A connection to the file, which must exist: SQLite would create an empty one. */
  @Override
  public Connection connect() throws SourceUnavailableException {
    if (!Files.isRegularFile(definition.file())) {
      throw new SourceUnavailableException(
          "database file " + definition.file() + " does not exist", null);
    }
    SQLiteConfig config = new SQLiteConfig();
    config.resetOpenMode(SQLiteOpenMode.CREATE);
    config.setBusyTimeout(BUSY_MILLIS);
    // We write only bookkeeping there; waiting for the disk would hold up others.
    config.setSynchronous(SQLiteConfig.SynchronousMode.NORMAL);
    try {
      return config.createConnection("jdbc:sqlite:" + definition.file().toAbsolutePath());
    } catch (SQLException e) {
      throw unavailable(e);
    }
  }

  /** Identifies the file itself: another one may be moved into its place. */
  @Override
  public Object identity() throws SourceUnavailableException {
    try {
      Object key = Files.readAttributes(definition.file(), BasicFileAttributes.class).fileKey();
      return key == null ? "" : key;
    } catch (IOException e) {
      throw new SourceUnavailableException(
          "database file " + definition.file() + " does not exist", e);
    }
  }

  @Override
  public SourceUnavailableException unavailable(SQLException cause) {
    return new SourceUnavailableException(
        "database " + definition.file() + ": " + cause.getMessage(), cause);
  }

  @Override
  public Catalogue catalogue(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      return catalogue(statement);
    }
  }

  private static Catalogue catalogue(Statement statement) throws SQLException {
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
          statement.executeQuery("PRAGMA table_info(" + Sql.SQLITE.name(entry.getKey()) + ")")) {
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
              entry.getKey(),
              entry.getValue(),
              columns,
              List.copyOf(key.values()),
              indexed(statement, entry.getKey(), key.values())));
    }
    return new Catalogue(tables);
  }

  private static Set<String> indexed(Statement statement, String table, Collection<String> key)
      throws SQLException {
    Set<String> indexed = new TreeSet<>();
    key.stream().findFirst().ifPresent(indexed::add);
    try (ResultSet rows =
        statement.executeQuery(
            "SELECT c.name FROM pragma_index_list(%1$s) i JOIN pragma_index_info(i.name) c"
                    .formatted(Sql.SQLITE.text(table))
                + " WHERE c.seqno = 0 AND i.partial = 0 AND c.name IS NOT NULL")) {
      while (rows.next()) {
        indexed.add(rows.getString(1));
      }
    }
    return indexed;
  }

  /** The rowid, unless the table is WITHOUT ROWID. */
  @Override
  public long estimate(Connection connection, String table) {
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery("SELECT max(_rowid_) FROM " + Sql.SQLITE.name(table))) {
      return rows.next() ? Math.max(0, rows.getLong(1)) : 0;
    } catch (SQLException e) {
      return 0;
    }
  }

  @Override
  public Map<String, TableNotes> notes(Connection connection, Set<String> tables)
      throws SQLException {
    Map<String, TableNotes> notes = new TreeMap<>();
    try (Statement statement = connection.createStatement()) {
      for (String table : tables) {
        Map<Integer, TableNotes.ForeignKey> keys = new TreeMap<>();
        try (ResultSet rows =
            statement.executeQuery("PRAGMA foreign_key_list(" + Sql.SQLITE.name(table) + ")")) {
          while (rows.next()) {
            String to = rows.getString("to");
            if (to != null) {
              keys.computeIfAbsent(
                      rows.getInt("id"),
                      id -> new TableNotes.ForeignKey(new TreeMap<>(), parent(rows)))
                  .columns()
                  .put(rows.getString("from"), to);
            }
          }
        }
        notes.put(table, new TableNotes(List.copyOf(keys.values()), Map.of(), Map.of()));
      }
    }
    return notes;
  }

  private static String parent(ResultSet row) {
    try {
      return row.getString("table");
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  @Override
  protected CaptureMethod method() {
    return new SqliteJournalMethod(this);
  }

  @Override
  protected void beginPreparing(Connection connection) throws SQLException {
    // SQLite has one writer at a time, so the second sees what the first created.
    connection.setAutoCommit(false);
  }

  @Override
  protected @Nullable Position positionAsTold(String text) {
    return text.matches("\\d+") ? new Position("", Long.parseLong(text)) : null;
  }

  /** SQLite has no type for times. */
  @Override
  public TimeType timeType(String type) {
    return TimeType.UNTYPED;
  }

  @Override
  public Sql sql() {
    return Sql.SQLITE;
  }

  @Override
  public void beginReading(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      statement.execute("PRAGMA query_only = ON");
    }
    connection.setAutoCommit(false);
  }

  @Override
  public ValueReader valueReader(ResultSetMetaData columns, int column) {
    // Any column may hold any type.
    return ResultSet::getObject;
  }
}
