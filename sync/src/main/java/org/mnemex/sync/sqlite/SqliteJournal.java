package org.mnemex.sync.sqlite;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.journal.LineMark;
import org.mnemex.sync.record.Sql;

/**
 * The journal in the source database.
 *
 * <pre>
 * mnemex_journal         seq (position), table_name, columns (JSON object), at (ms since 1970)
 * mnemex_journal_state   the journal's identity and up to where it was trimmed
 * mnemex_journal_table   for each watched table the columns that its triggers write
 * mnemex_journal_reader  who still needs what
 * mnemex_&lt;table&gt;_ins|upd|del   triggers
 * mnemex_&lt;table&gt;_rpi|rpu       triggers for rows that another one replaces
 * </pre>
 *
 * <p>Rows that {@code INSERT OR REPLACE} or {@code UPDATE OR REPLACE} removes because of a unique
 * conflict fire no delete trigger, unless the writer enables {@code recursive_triggers}. So
 * triggers before these statements note the conflicting rows. A row that stays after all costs one
 * needless read.
 *
 * <p>Nothing here may make the application's statements fail: JSON has no bytes, so they are
 * written as null.
 *
 * <p>SQLite serialises write transactions, so {@code seq} grows in commit order and a reader never
 * sees a lower number appear later.
 */
final class SqliteJournal {
  static final String JOURNAL = "mnemex_journal";

  private static final List<String> TABLES =
      List.of(
          """
          CREATE TABLE IF NOT EXISTS mnemex_journal (
            seq INTEGER PRIMARY KEY AUTOINCREMENT,
            table_name TEXT NOT NULL,
            columns TEXT NOT NULL,
            at INTEGER NOT NULL)""",
          """
          CREATE TABLE IF NOT EXISTS mnemex_journal_state (
            id INTEGER PRIMARY KEY CHECK (id = 1),
            journal TEXT NOT NULL,
            trimmed INTEGER NOT NULL)""",
          """
          CREATE TABLE IF NOT EXISTS mnemex_journal_table (
            table_name TEXT PRIMARY KEY,
            columns TEXT NOT NULL)""",
          """
          CREATE TABLE IF NOT EXISTS mnemex_journal_reader (
            reader TEXT PRIMARY KEY,
            position INTEGER NOT NULL)""");

  private static final String NOW = "CAST((julianday('now') - 2440587.5) * 86400000 AS INTEGER)";
  private static final String SEPARATOR = "\n";

  private SqliteJournal() {}

  private static void inTransaction(Connection connection, Work work) throws SQLException {
    connection.setAutoCommit(false);
    try (Statement statement = connection.createStatement()) {
      work.with(statement);
      connection.commit();
    } catch (SQLException e) {
      connection.rollback();
      throw e;
    } finally {
      connection.setAutoCommit(true);
    }
  }

  @FunctionalInterface
  private interface Work {
    void with(Statement statement) throws SQLException;
  }

  /** The statements that create what is missing. */
  static List<String> missing(Connection connection, Map<String, Set<String>> wanted)
      throws SQLException {
    try (Statement statement = connection.createStatement()) {
      return missing(statement, wanted);
    }
  }

  private static List<String> missing(Statement statement, Map<String, Set<String>> wanted)
      throws SQLException {
    List<String> sql = new ArrayList<>();
    Map<String, Set<String>> watched = new TreeMap<>();
    if (exists(statement, "table", "mnemex_journal_table")) {
      watched = watched(statement);
    } else {
      sql.addAll(TABLES);
      sql.add(
          "INSERT OR IGNORE INTO mnemex_journal_state (id, journal, trimmed) VALUES (1, "
              + Sql.SQLITE.text(UUID.randomUUID().toString().substring(0, 8))
              + ", 0)");
    }
    for (Map.Entry<String, Set<String>> entry : wanted.entrySet()) {
      String table = entry.getKey();
      Set<String> columns = new TreeSet<>(entry.getValue());
      Set<String> present = watched.getOrDefault(table, Set.of());
      columns.addAll(present);
      List<Set<String>> replacing = replacing(statement, table, columns);
      boolean triggers = true;
      for (String event :
          replacing.isEmpty()
              ? List.of("ins", "upd", "del")
              : List.of("ins", "upd", "del", "rpi", "rpu")) {
        // A renamed table keeps its triggers.
        triggers &= isOn(statement, trigger(table, event), table);
      }
      if (triggers && present.containsAll(columns)) {
        continue;
      }
      sql.addAll(triggers(table, columns, replacing));
    }
    return sql;
  }

  /** The statements that remove all of it. */
  static List<String> removal(Connection connection) throws SQLException {
    List<String> sql = new ArrayList<>();
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT type, name FROM sqlite_master WHERE type IN ('trigger', 'table')"
                    + " AND name LIKE 'mnemex!_%' ESCAPE '!' ORDER BY type DESC, name")) {
      while (rows.next()) {
        sql.add(
            "DROP "
                + rows.getString(1).toUpperCase(Locale.ROOT)
                + " "
                + Sql.SQLITE.name(rows.getString(2)));
      }
    }
    return sql;
  }

  /**
   * Unique constraints through which a row may replace one of other records: those that lack a
   * watched column. Excludes unique expressions.
   */
  private static List<Set<String>> replacing(Statement statement, String table, Set<String> watched)
      throws SQLException {
    Map<String, Set<String>> unique = new TreeMap<>();
    Set<String> expressions = new TreeSet<>();
    try (ResultSet rows =
        statement.executeQuery(
            "SELECT i.name, c.name FROM pragma_index_list(%s) i JOIN pragma_index_info(i.name) c"
                    .formatted(Sql.SQLITE.text(table))
                + " WHERE i.\"unique\" = 1")) {
      while (rows.next()) {
        if (rows.getString(2) == null) {
          expressions.add(rows.getString(1));
        } else {
          unique.computeIfAbsent(rows.getString(1), n -> new TreeSet<>()).add(rows.getString(2));
        }
      }
    }
    expressions.forEach(unique::remove);
    // A primary key that aliases the rowid has no index.
    Set<String> key = new TreeSet<>();
    try (ResultSet rows =
        statement.executeQuery(
            "SELECT name FROM pragma_table_info(%s) WHERE pk > 0"
                .formatted(Sql.SQLITE.text(table)))) {
      while (rows.next()) {
        key.add(rows.getString(1));
      }
    }
    Set<Set<String>> all = new LinkedHashSet<>(unique.values());
    if (!key.isEmpty()) {
      all.add(key);
    }
    return all.stream().filter(columns -> !columns.containsAll(watched)).toList();
  }

  /** Notes the rows that conflict with a new one. */
  private static String noteReplaced(
      String table, Set<String> columns, List<Set<String>> replacing, String besides) {
    String same =
        replacing.stream()
            .map(
                unique ->
                    unique.stream()
                        .map(c -> "%1$s = NEW.%1$s".formatted(Sql.SQLITE.name(c)))
                        .collect(Collectors.joining(" AND ", "(", ")")))
            .collect(Collectors.joining(" OR "));
    String name = Sql.SQLITE.name(table);
    return "INSERT INTO mnemex_journal (table_name, columns, at) SELECT %s, %s, %s FROM %s WHERE (%s)%s;"
        .formatted(Sql.SQLITE.text(table), object(columns, name), NOW, name, same, besides);
  }

  private static List<String> triggers(
      String table, Set<String> columns, List<Set<String>> replacing) {
    List<String> sql = new ArrayList<>();
    for (String event : List.of("ins", "upd", "del", "rpi", "rpu")) {
      sql.add("DROP TRIGGER IF EXISTS " + Sql.SQLITE.name(trigger(table, event)));
    }
    String changed =
        columns.stream()
            .map(c -> "OLD." + Sql.SQLITE.name(c) + " IS NOT NEW." + Sql.SQLITE.name(c))
            .collect(Collectors.joining(" OR "));
    sql.add(trigger(table, "ins", "INSERT", insert(table, columns, "NEW", "")));
    sql.add(
        trigger(
            table,
            "upd",
            "UPDATE",
            insert(table, columns, "OLD", "")
                + " "
                + insert(table, columns, "NEW", " WHERE " + changed)));
    sql.add(trigger(table, "del", "DELETE", insert(table, columns, "OLD", "")));
    if (!replacing.isEmpty()) {
      sql.add(before(table, "rpi", "INSERT", noteReplaced(table, columns, replacing, "")));
      Set<String> unique = new TreeSet<>();
      replacing.forEach(unique::addAll);
      // Excludes the row itself, which has these values before and after.
      String itself =
          unique.stream()
              .map(c -> "%1$s IS OLD.%1$s".formatted(Sql.SQLITE.name(c)))
              .collect(Collectors.joining(" AND ", " AND NOT (", ")"));
      String on =
          "UPDATE OF " + unique.stream().map(Sql.SQLITE::name).collect(Collectors.joining(", "));
      sql.add(before(table, "rpu", on, noteReplaced(table, columns, replacing, itself)));
    }
    sql.add(
        "INSERT OR REPLACE INTO mnemex_journal_table (table_name, columns) VALUES (%s, %s)"
            .formatted(Sql.SQLITE.text(table), Sql.SQLITE.text(String.join(SEPARATOR, columns))));
    return sql;
  }

  private static String trigger(String table, String event) {
    return "mnemex_" + table + "_" + event;
  }

  private static String trigger(String table, String event, String on, String body) {
    return "CREATE TRIGGER %s AFTER %s ON %s BEGIN %s END"
        .formatted(Sql.SQLITE.name(trigger(table, event)), on, Sql.SQLITE.name(table), body);
  }

  private static String before(String table, String event, String on, String body) {
    return "CREATE TRIGGER %s BEFORE %s ON %s BEGIN %s END"
        .formatted(Sql.SQLITE.name(trigger(table, event)), on, Sql.SQLITE.name(table), body);
  }

  private static String insert(
      String table, Collection<String> columns, String row, String condition) {
    return "INSERT INTO mnemex_journal (table_name, columns, at) SELECT %s, %s, %s%s;"
        .formatted(Sql.SQLITE.text(table), object(columns, row), NOW, condition);
  }

  private static String object(Collection<String> columns, String row) {
    return columns.stream()
        .map(
            c ->
                "%1$s, CASE typeof(%2$s) WHEN 'blob' THEN NULL ELSE %2$s END"
                    .formatted(Sql.SQLITE.text(c), row + "." + Sql.SQLITE.name(c)))
        .collect(Collectors.joining(", ", "json_object(", ")"));
  }

  private static Map<String, Set<String>> watched(Statement statement) throws SQLException {
    Map<String, Set<String>> watched = new TreeMap<>();
    try (ResultSet rows =
        statement.executeQuery("SELECT table_name, columns FROM mnemex_journal_table")) {
      while (rows.next()) {
        watched.put(rows.getString(1), new TreeSet<>(List.of(rows.getString(2).split(SEPARATOR))));
      }
    }
    return watched;
  }

  private static boolean isOn(Statement statement, String trigger, String table)
      throws SQLException {
    try (ResultSet rows =
        statement.executeQuery(
            "SELECT 1 FROM sqlite_master WHERE type = 'trigger' AND name = %s AND tbl_name = %s"
                .formatted(Sql.SQLITE.text(trigger), Sql.SQLITE.text(table)))) {
      return rows.next();
    }
  }

  private static boolean exists(Statement statement, String type, String name) throws SQLException {
    try (ResultSet rows =
        statement.executeQuery(
            "SELECT 1 FROM sqlite_master WHERE type = %s AND name = %s"
                .formatted(Sql.SQLITE.text(type), Sql.SQLITE.text(name)))) {
      return rows.next();
    }
  }

  /**
   * The journal's identity and its trimmed position, or null if there is none.
   *
   * @param journal a random identifier
   * @param trimmed changes up to this number are gone
   */
  record State(String journal, long trimmed) {}

  static @Nullable State state(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      if (!exists(statement, "table", "mnemex_journal_state")) {
        return null;
      }
      try (ResultSet rows =
          statement.executeQuery("SELECT journal, trimmed FROM mnemex_journal_state")) {
        return rows.next() ? new State(rows.getString(1), rows.getLong(2)) : null;
      }
    }
  }

  /** The number of the last change ever, even if trimmed. */
  static long last(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT seq FROM sqlite_sequence WHERE name = 'mnemex_journal'")) {
      return rows.next() ? rows.getLong(1) : 0;
    }
  }

  /** The mark of the last line up to a number; null if there is none. */
  static @Nullable LineMark mark(Connection connection, long number) throws SQLException {
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT seq, table_name, columns, at FROM mnemex_journal WHERE seq <= ?"
                + " ORDER BY seq DESC LIMIT 1")) {
      select.setLong(1, number);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next()
            ? LineMark.of(rows.getLong(1), rows.getString(2), rows.getString(3), rows.getLong(4))
            : null;
      }
    }
  }

  /** Notes a reader's position, and trims what no reader needs. */
  static void done(Connection connection, String reader, long number) throws SQLException {
    inTransaction(
        connection,
        statement -> {
          try (PreparedStatement note =
              connection.prepareStatement(
                  "INSERT INTO mnemex_journal_reader (reader, position) VALUES (?, ?)"
                      + " ON CONFLICT (reader) DO UPDATE SET position = excluded.position")) {
            note.setString(1, reader);
            note.setLong(2, number);
            note.executeUpdate();
          }
          trim(statement);
        });
  }

  /** Forgets a reader. */
  static void leave(Connection connection, String reader) throws SQLException {
    if (state(connection) == null) {
      return;
    }
    try (PreparedStatement forget =
        connection.prepareStatement("DELETE FROM mnemex_journal_reader WHERE reader = ?")) {
      forget.setString(1, reader);
      forget.executeUpdate();
    }
  }

  private static void trim(Statement statement) throws SQLException {
    String needed = "(SELECT min(position) FROM mnemex_journal_reader)";
    int removed = statement.executeUpdate("DELETE FROM mnemex_journal WHERE seq <= " + needed);
    if (removed > 0) {
      statement.executeUpdate(
          "UPDATE mnemex_journal_state SET trimmed = max(trimmed, " + needed + ")");
    }
  }
}
