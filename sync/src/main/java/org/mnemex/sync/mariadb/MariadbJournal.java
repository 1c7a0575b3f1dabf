package org.mnemex.sync.mariadb;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.mnemex.sync.journal.ServerJournal;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Requirement;

/**
 * Captures changes with a journal written by triggers, for servers whose log is not available. The
 * server runs no triggers for truncation and for actions of foreign keys; an audit finds these.
 *
 * <h2>Numbers that are missing</h2>
 *
 * <p>An uncommitted journal line is locked by its transaction, so requesting the locks of missing
 * numbers shows whether one is pending. There is a moment without a lock between assigning a number
 * and writing its line, so a missing number is waited for some seconds.
 */
final class MariadbJournal extends ServerJournal {
  /** Changes that triggers cannot see; no statement helps. */
  static final Requirement UNSEEN =
      new Requirement(
          "rows are removed by DELETE, not by TRUNCATE: the server runs no trigger for it, so only an"
              + " audit finds what it removed",
          false,
          List.of(),
          Requirement.Kind.ADVICE);

  private static final Sql SQL = Sql.MARIADB;
  private static final int MAX_NAME = 64;
  private static final long BELIEF_MILLIS = 5000;
  private static final long POLL_MILLIS = 10;

  /** The server's error number. */
  private static final int LOCK_WAIT_TIMEOUT = 1205;

  private static final List<String> RIGHTS =
      List.of("SELECT", "INSERT", "UPDATE", "DELETE", "CREATE", "DROP", "TRIGGER");

  private static final List<String> EVENTS = List.of("ins", "upd", "del");

  private static final String NOW = "FLOOR(UNIX_TIMESTAMP(SYSDATE(3)) * 1000)";

  private final MariadbSource source;

  MariadbJournal(MariadbSource source) {
    super(source);
    this.source = source;
  }

  @Override
  protected String place() {
    return "database '%s'".formatted(source.definition().database());
  }

  @Override
  protected String own(String table) {
    return table;
  }

  @Override
  protected List<Requirement> unfit(String table, Set<String> columns, Map<String, String> types) {
    List<Requirement> all = new ArrayList<>();
    for (String column : columns) {
      String type = types.getOrDefault(column, "text").toLowerCase(Locale.ROOT).split("[ (]", 2)[0];
      if (!MariadbValues.isComparable(type)) {
        all.add(
            new Requirement(
                "rows can be related by column '%s.%s' (of type %s)".formatted(table, column, type),
                false,
                List.of("-- relate rows by another column"),
                Requirement.Kind.ADMINISTRATIVE));
      }
    }
    return all;
  }

  @Override
  protected List<Requirement> privileges(Connection connection, Set<String> tables)
      throws SQLException {
    String database = source.definition().database();
    StringBuilder grants = new StringBuilder();
    String trust;
    try (Statement statement = connection.createStatement()) {
      try (ResultSet rows = statement.executeQuery("SHOW GRANTS")) {
        while (rows.next()) {
          String grant = rows.getString(1);
          String on = grant.replace("`", "\"").replace("\\_", "_");
          if (on.contains(" ON *.* ") || on.contains(" ON \"" + database + "\".* ")) {
            grants.append(grant).append('\n');
          }
        }
      }
      try (ResultSet rows =
          statement.executeQuery(
              "SELECT @@GLOBAL.log_bin = 0 OR @@GLOBAL.log_bin_trust_function_creators = 1")) {
        rows.next();
        trust = rows.getString(1);
      }
    }
    boolean everything = grants.indexOf("ALL PRIVILEGES") >= 0;
    boolean mayMakeTriggers =
        trust.equals("1")
            || grants.indexOf("SUPER") >= 0
            || grants.indexOf("GRANT ALL PRIVILEGES ON *.*") >= 0;
    boolean may = RIGHTS.stream().allMatch(right -> everything || grants.indexOf(right) >= 0);
    return List.of(
        new Requirement(
            "user '%s' may make and keep the journal".formatted(source.definition().user()),
            may,
            List.of(
                "GRANT %s ON %s.* TO %s;"
                    .formatted(
                        String.join(", ", RIGHTS),
                        SQL.name(database),
                        BinlogSetup.account(connection))),
            Requirement.Kind.ADMINISTRATIVE),
        new Requirement(
            "triggers may be made although the server writes a binary log",
            mayMakeTriggers,
            List.of(
                "SET GLOBAL log_bin_trust_function_creators = 1; -- also in the server's configuration"),
            Requirement.Kind.ADMINISTRATIVE));
  }

  @Override
  protected List<String> tables() {
    return List.of(
        "CREATE TABLE IF NOT EXISTS mnemex_journal (seq BIGINT AUTO_INCREMENT PRIMARY KEY, table_name VARCHAR(64) NOT NULL, columns LONGTEXT NOT NULL, at BIGINT NOT NULL) ENGINE = InnoDB CHARACTER SET utf8mb4",
        "CREATE TABLE IF NOT EXISTS mnemex_journal_state (id INT PRIMARY KEY, journal VARCHAR(64) NOT NULL, trimmed BIGINT NOT NULL) ENGINE = InnoDB CHARACTER SET utf8mb4",
        "CREATE TABLE IF NOT EXISTS mnemex_journal_table (table_name VARCHAR(64) COLLATE utf8mb4_bin PRIMARY KEY, columns TEXT NOT NULL) ENGINE = InnoDB CHARACTER SET utf8mb4",
        "CREATE TABLE IF NOT EXISTS mnemex_journal_reader (reader VARCHAR(200) COLLATE utf8mb4_bin PRIMARY KEY, position BIGINT NOT NULL, joined BIGINT NOT NULL) ENGINE = InnoDB CHARACTER SET utf8mb4",
        "INSERT IGNORE INTO mnemex_journal_state VALUES (1, %s, 0)"
            .formatted(SQL.text(newIdentity())));
  }

  @Override
  protected Triggers triggers(Connection connection) throws SQLException {
    Map<String, String> present = triggersThereAre(connection);
    Catalogue catalogue = source.catalogue(connection);
    return new Triggers() {
      @Override
      public boolean areOn(String table) {
        return EVENTS.stream().allMatch(event -> table.equals(present.get(trigger(table, event))));
      }

      @Override
      public List<String> statements(String table, Set<String> columns) {
        return made(table, columns, types(catalogue, table), present);
      }
    };
  }

  private static List<String> made(
      String table, Set<String> columns, Map<String, String> types, Map<String, String> present) {
    String same =
        columns.stream()
            .map(c -> "BINARY OLD.%1$s <=> BINARY NEW.%1$s".formatted(SQL.name(c)))
            .collect(Collectors.joining(" AND "));
    String before = insert(table, columns, types, "OLD");
    String after = insert(table, columns, types, "NEW");
    List<String> all = new ArrayList<>();
    for (String event : EVENTS) {
      // A renamed table keeps its triggers and their names.
      if (!table.equals(present.getOrDefault(trigger(table, event), table))) {
        all.add("DROP TRIGGER " + SQL.name(trigger(table, event)));
      }
    }
    all.addAll(made(table, columns, before, after, same));
    return all;
  }

  private static List<String> made(
      String table, Set<String> columns, String before, String after, String same) {
    return List.of(
        trigger(table, "ins", "INSERT", body(after + ";")),
        trigger(
            table,
            "upd",
            "UPDATE",
            body("%s; IF NOT (%s) THEN %s; END IF;".formatted(before, same, after))),
        trigger(table, "del", "DELETE", body(before + ";")),
        "REPLACE INTO mnemex_journal_table VALUES (%s, %s)"
            .formatted(SQL.text(table), SQL.text(noted(columns))));
  }

  /** A dropped journal must not make the application's statements fail. */
  private static String body(String statements) {
    return "BEGIN DECLARE EXIT HANDLER FOR 1146 BEGIN END; %s END".formatted(statements);
  }

  private static String trigger(String table, String event) {
    return nameFor(table, "_" + event, MAX_NAME);
  }

  private static String trigger(String table, String event, String on, String body) {
    return "CREATE OR REPLACE TRIGGER %s AFTER %s ON %s FOR EACH ROW %s"
        .formatted(SQL.name(trigger(table, event)), on, SQL.name(table), body);
  }

  private static String insert(
      String table, Set<String> columns, Map<String, String> types, String row) {
    String object =
        columns.stream()
            .map(
                c ->
                    SQL.text(c)
                        + ", "
                        + written(row + "." + SQL.name(c), types.getOrDefault(c, "")))
            .collect(Collectors.joining(", ", "JSON_OBJECT(", ")"));
    return "INSERT INTO mnemex_journal (table_name, columns, at) VALUES (%s, %s, %s)"
        .formatted(SQL.text(table), object, NOW);
  }

  /** A moment as a number, independent of the session's time zone. */
  private static String written(String column, String type) {
    return type.toLowerCase(Locale.ROOT).startsWith("timestamp")
        ? "CAST(UNIX_TIMESTAMP(" + column + ") AS CHAR)"
        : "CAST(" + column + " AS CHAR CHARACTER SET utf8mb4)";
  }

  /** Our triggers by table. */
  private Map<String, String> triggersThereAre(Connection connection) throws SQLException {
    Map<String, String> triggers = new TreeMap<>();
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT trigger_name, event_object_table FROM information_schema.triggers WHERE trigger_schema = ?"
                + " AND trigger_name LIKE 'mnemex!_%' ESCAPE '!'")) {
      select.setString(1, source.definition().database());
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          triggers.put(rows.getString(1), rows.getString(2));
        }
      }
    }
    return triggers;
  }

  @Override
  protected List<String> withoutTriggers(Connection connection) throws SQLException {
    return triggersThereAre(connection).keySet().stream()
        .map(trigger -> "DROP TRIGGER IF EXISTS " + SQL.name(trigger))
        .toList();
  }

  @Override
  protected boolean exists(Connection connection) throws SQLException {
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT 1 FROM information_schema.tables WHERE table_schema = ?"
                + " AND table_name = 'mnemex_journal_state'")) {
      select.setString(1, source.definition().database());
      try (ResultSet rows = select.executeQuery()) {
        return rows.next();
      }
    }
  }

  @Override
  protected void await(Connection connection, Duration most) throws InterruptedException {
    TimeUnit.MILLISECONDS.sleep(Math.min(POLL_MILLIS, Math.max(1, most.toMillis())));
  }

  @Override
  protected long moment(Connection connection) {
    return System.nanoTime();
  }

  @Override
  protected boolean isOver(Connection connection, long moment, long from, long to)
      throws SQLException {
    if (System.nanoTime() - moment < TimeUnit.MILLISECONDS.toNanos(BELIEF_MILLIS)) {
      return false;
    }
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT count(*) FROM mnemex_journal WHERE seq BETWEEN ? AND ? LOCK IN SHARE MODE NOWAIT")) {
      select.setLong(1, from);
      select.setLong(2, to);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next();
      }
    } catch (SQLException e) {
      if (e.getErrorCode() == LOCK_WAIT_TIMEOUT) {
        return false;
      }
      throw e;
    }
  }

  @Override
  protected Object value(String type, String text) {
    return MariadbValues.ofText(type.toLowerCase(Locale.ROOT), text);
  }
}
