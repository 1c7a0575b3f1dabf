package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.journal.ServerJournal;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Requirement;
import org.postgresql.PGConnection;

/**
 * Captures changes with a journal written by triggers, for servers whose log is not available.
 *
 * <pre>
 * mnemex_journal, _state, _table, _reader   see the journal's room
 * mnemex_&lt;table&gt;()                        trigger function, with the rights of who made it
 * mnemex_change, mnemex_truncate            triggers on each watched table
 * </pre>
 *
 * <p>A commit with changes notifies channel {@code mnemex_journal}, which wakes the reader up.
 */
final class PostgresJournal extends ServerJournal {
  private static final Sql SQL = Sql.POSTGRES;
  private static final String TRUNCATED = "truncate:";
  private static final int MAX_NAME = 63;
  private static final long OLDEST_NANOS = 5_000_000;
  private static final Duration LISTEN = Duration.ofMillis(250);

  private final PostgresSource source;
  private @Nullable Connection listening;
  private long oldest;
  private long oldestAsked = System.nanoTime() - OLDEST_NANOS - 1;

  PostgresJournal(PostgresSource source) {
    super(source);
    this.source = source;
  }

  @Override
  protected String place() {
    return "schema '%s'".formatted(source.schema());
  }

  @Override
  protected String own(String name) {
    return SQL.column(source.schema(), name);
  }

  private String function(String table) {
    return own(nameFor(table, "", MAX_NAME));
  }

  @Override
  protected List<Requirement> server(Connection connection) throws SQLException {
    return List.of(
        PostgresSetup.recent(connection),
        new ReadingRights(connection, source.schema()).toUseSchema());
  }

  @Override
  protected List<Requirement> privileges(Connection connection, Set<String> tables)
      throws SQLException {
    ReadingRights rights = new ReadingRights(connection, source.schema());
    String user = rights.role();
    List<Requirement> all = new ArrayList<>();
    all.add(
        new Requirement(
            "role '%s' may make tables in schema '%s'".formatted(user, source.schema()),
            rights.mayMakeTables(),
            List.of(
                "GRANT CREATE ON SCHEMA %s TO %s;"
                    .formatted(SQL.name(source.schema()), SQL.name(user))),
            Requirement.Kind.ADMINISTRATIVE));
    Set<String> readable = rights.granted("SELECT", tables);
    Set<String> triggered = rights.granted("TRIGGER", tables);
    for (String table : tables) {
      all.add(
          new Requirement(
              "role '%s' may read table '%s' and have triggers on it".formatted(user, table),
              readable.contains(table) && triggered.contains(table),
              List.of("GRANT SELECT, TRIGGER ON %s TO %s;".formatted(own(table), SQL.name(user))),
              Requirement.Kind.ADMINISTRATIVE));
    }
    return all;
  }

  @Override
  protected List<String> tables() {
    return List.of(
        "CREATE TABLE %s (seq bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, table_name text NOT NULL, columns text NOT NULL, at bigint NOT NULL);"
            .formatted(own("mnemex_journal")),
        "CREATE TABLE %s (id int PRIMARY KEY CHECK (id = 1), journal text NOT NULL, trimmed bigint NOT NULL);"
            .formatted(own("mnemex_journal_state")),
        "CREATE TABLE %s (table_name text PRIMARY KEY, columns text NOT NULL);"
            .formatted(own("mnemex_journal_table")),
        "CREATE TABLE %s (reader text PRIMARY KEY, position bigint NOT NULL, joined bigint NOT NULL);"
            .formatted(own("mnemex_journal_reader")),
        "INSERT INTO %s VALUES (1, %s, 0);"
            .formatted(own("mnemex_journal_state"), SQL.text(newIdentity())));
  }

  @Override
  protected Triggers triggers(Connection connection) throws SQLException {
    Set<String> triggered = triggered(connection);
    return new Triggers() {
      @Override
      public boolean areOn(String table) {
        return triggered.contains(table);
      }

      @Override
      public List<String> statements(String table, Set<String> columns) {
        return made(table, columns);
      }
    };
  }

  private List<String> made(String table, Set<String> columns) {
    String changed =
        columns.stream()
            .map(c -> "OLD.%1$s IS DISTINCT FROM NEW.%1$s".formatted(SQL.name(c)))
            .collect(Collectors.joining(" OR "));
    String body =
        """
        BEGIN
          IF to_regclass(%s) IS NULL THEN
            RETURN NULL;
          END IF;
          IF TG_OP = 'TRUNCATE' THEN
            %s
          ELSE
            IF TG_OP <> 'INSERT' THEN
              %s
            END IF;
            IF TG_OP = 'INSERT' THEN
              %s
            ELSIF TG_OP = 'UPDATE' THEN
              IF %s THEN
                %s
              END IF;
            END IF;
          END IF;
          PERFORM pg_notify('mnemex_journal', '');
          RETURN NULL;
        END"""
            .formatted(
                SQL.text(own("mnemex_journal")),
                insert(TRUNCATED + table, "'{}'"),
                insert(table, object(columns, "OLD")),
                insert(table, object(columns, "NEW")),
                changed,
                insert(table, object(columns, "NEW")));
    String name = own(table);
    return List.of(
        "CREATE OR REPLACE FUNCTION %s() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp SET DateStyle = 'ISO' SET TimeZone = 'UTC' AS $mnemex$\n%s\n$mnemex$;"
            .formatted(function(table), body),
        "DROP TRIGGER IF EXISTS mnemex_change ON " + name + ";",
        "DROP TRIGGER IF EXISTS mnemex_truncate ON " + name + ";",
        "CREATE TRIGGER mnemex_change AFTER INSERT OR UPDATE OR DELETE ON %s FOR EACH ROW EXECUTE FUNCTION %s();"
            .formatted(name, function(table)),
        "CREATE TRIGGER mnemex_truncate AFTER TRUNCATE ON %s FOR EACH STATEMENT EXECUTE FUNCTION %s();"
            .formatted(name, function(table)),
        "INSERT INTO %s VALUES (%s, %s) ON CONFLICT (table_name) DO UPDATE SET columns = excluded.columns;"
            .formatted(own("mnemex_journal_table"), SQL.text(table), SQL.text(noted(columns))));
  }

  private String insert(String table, String columns) {
    return "INSERT INTO %s (table_name, columns, at) VALUES (%s, %s, (extract(epoch FROM clock_timestamp()) * 1000)::bigint);"
        .formatted(own("mnemex_journal"), SQL.text(table), columns);
  }

  private static String object(Set<String> columns, String row) {
    return columns.stream()
        .map(c -> "%s, %s.%s::text".formatted(SQL.text(c), row, SQL.name(c)))
        .collect(Collectors.joining(", ", "json_build_object(", ")::text"));
  }

  /** Tables with both triggers enabled. */
  private Set<String> triggered(Connection connection) throws SQLException {
    Set<String> tables = new TreeSet<>();
    try (PreparedStatement select =
        connection.prepareStatement(
            """
            SELECT c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid
            JOIN pg_namespace n ON n.oid = c.relnamespace
            WHERE n.nspname = ? AND t.tgname IN ('mnemex_change', 'mnemex_truncate')
              AND t.tgenabled IN ('O', 'A') GROUP BY c.relname HAVING count(*) = 2""")) {
      select.setString(1, source.schema());
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          tables.add(rows.getString(1));
        }
      }
    }
    return tables;
  }

  @Override
  protected List<String> withoutTriggers(Connection connection) throws SQLException {
    List<String> all = new ArrayList<>();
    try (PreparedStatement select =
        connection.prepareStatement(
            """
            SELECT DISTINCT p.oid::regprocedure::text FROM pg_proc p
            JOIN pg_namespace n ON n.oid = p.pronamespace JOIN pg_trigger t ON t.tgfoid = p.oid
            WHERE n.nspname = ? AND t.tgname IN ('mnemex_change', 'mnemex_truncate')""")) {
      select.setString(1, source.schema());
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          // Dropping it drops its triggers.
          all.add("DROP FUNCTION " + rows.getString(1) + " CASCADE");
        }
      }
    }
    return all;
  }

  @Override
  protected boolean exists(Connection connection) throws SQLException {
    try (PreparedStatement select = connection.prepareStatement("SELECT to_regclass(?)::text")) {
      select.setString(1, own("mnemex_journal_state"));
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() && rows.getString(1) != null;
      }
    }
  }

  @Override
  protected void await(Connection connection, Duration most) throws SQLException {
    if (!connection.equals(listening)) {
      try (Statement statement = connection.createStatement()) {
        statement.execute("LISTEN mnemex_journal");
      }
      listening = connection;
      // Commits before LISTEN did not wake us: look again at once.
      return;
    }
    Duration some = most.compareTo(LISTEN) < 0 ? most : LISTEN;
    connection.unwrap(PGConnection.class).getNotifications((int) Math.max(1, some.toMillis()));
  }

  /** The next transaction number: all open transactions have a lower one. */
  @Override
  protected long moment(Connection connection) throws SQLException {
    return number(connection, "txid_snapshot_xmax");
  }

  @Override
  protected boolean isOver(Connection connection, long moment, long from, long to)
      throws SQLException {
    // Many gaps are checked one after another; an older answer errs on the safe side.
    if (System.nanoTime() - oldestAsked > OLDEST_NANOS) {
      oldest = number(connection, "txid_snapshot_xmin");
      oldestAsked = System.nanoTime();
    }
    return oldest >= moment;
  }

  private static long number(Connection connection, String function) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery("SELECT " + function + "(txid_current_snapshot())")) {
      rows.next();
      return rows.getLong(1);
    }
  }

  @Override
  protected @Nullable String truncated(String tableName) {
    return tableName.startsWith(TRUNCATED) ? tableName.substring(TRUNCATED.length()) : null;
  }

  @Override
  protected Object value(String type, String text) {
    return PostgresValues.ofText(type.isEmpty() ? "text" : type, text);
  }
}
