package org.mnemex.sync.journal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.record.SqlSource;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Source;

/** Journals on both servers: what they say, what they keep, and how they are removed. */
class JournalTest {
  private static final OwnReaders OWN = new OwnReaders("here", Set.of());

  private static final Duration WAIT = Duration.ofMinutes(2);
  private static final Duration NOT_LONG = Duration.ofMillis(50);
  private static final SourceDefinition.Capture JOURNAL = new SourceDefinition.Journal();

  @Test
  void valuesComeInTheFormOfQueriesOnPostgres() throws Exception {
    SourceDefinition.Server definition = TestServers.followed(TestServers.newPostgres(), JOURNAL);
    try (Connection connection = TestServers.connect(definition)) {
      run(
          connection,
          "CREATE TYPE mood AS ENUM ('fine', 'wilting')",
          "CREATE TABLE \"Odd \"\"Table\" (\"the Key\" int, \"select\" char(4), n numeric(8,3), t timestamptz,"
              + " d date, ok boolean, m mood, u uuid, rest text, PRIMARY KEY (\"the Key\", \"select\"))",
          // A writer in another time zone must not change what is told.
          "SET TimeZone = 'Asia/Tokyo'");
      PostgresSource source = new PostgresSource(definition);
      SourceDefinition.Server poor = TestServers.asPoorUser(definition);
      assertThatThrownBy(() -> new PostgresSource(poor).prepare(Map.of("Odd \"Table", Set.of("n"))))
          .isInstanceOf(NotPreparedException.class)
          .hasMessageContaining("GRANT CREATE ON SCHEMA \"public\" TO \"poor\";")
          .hasMessageContaining(
              "GRANT SELECT, TRIGGER ON \"public\".\"Odd \"\"Table\" TO \"poor\";");
      Map<String, Set<String>> watched =
          Map.of("Odd \"Table", Set.of("the Key", "select", "n", "t", "d", "ok", "m", "u"));
      source.prepare(watched);
      Map<String, Object> told =
          change(
              source,
              connection,
              "INSERT INTO \"Odd \"\"Table\" VALUES (7, 'ab', 1.50, '2026-05-04 10:00:00+00', '2026-05-04',"
                  + " true, 'fine', '6f1f7c1e-0a5b-4c53-9d1c-111111111111', 'not told')");
      Map<String, Object> expected = new LinkedHashMap<>();
      expected.put("the Key", 7L);
      expected.put("select", "ab");
      expected.put("n", "1.500");
      expected.put("t", "2026-05-04T10:00:00Z");
      expected.put("d", "2026-05-04");
      expected.put("ok", true);
      expected.put("m", "fine");
      expected.put("u", "6f1f7c1e-0a5b-4c53-9d1c-111111111111");
      assertThat(told).isEqualTo(expected);
      truncatedAndForgotten(source, connection, "\"Odd \"\"Table\"");
    }
  }

  private static void truncatedAndForgotten(
      PostgresSource source, Connection connection, String table) throws Exception {
    try (Source.Capture capture = source.capture("test@here")) {
      Position position = capture.now();
      run(connection, "TRUNCATE " + table);
      assertThatThrownBy(() -> capture.after(position, 10, WAIT))
          .isInstanceOf(PositionLostException.class)
          .hasMessage("table 'Odd \"Table' was truncated");
      // Whoever begins now reads the table as it is after that; the other still needs its lines.
      try (Source.Capture later = source.capture("later")) {
        assertThat(later.after(later.now(), 10, NOT_LONG).list()).isEmpty();
        later.leave();
      }
    }
    assertThat(source.removal(OWN)).hasSize(5);
    source.forget(OWN);
    assertThat(source.removal(OWN)).isEmpty();
    run(connection, "INSERT INTO " + table + " (\"the Key\", \"select\") VALUES (1, 'a')");
    try (Source.Capture capture = source.capture("test@here")) {
      assertThatThrownBy(capture::now)
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("has no journal");
    }
  }

  @Test
  void valuesComeInTheFormOfQueriesOnMariadb() throws Exception {
    SourceDefinition.Server server = TestServers.newMariadb();
    SourceDefinition.Server definition = TestServers.followed(server, JOURNAL);
    MariadbSource source = new MariadbSource(definition);
    Map<String, Set<String>> watched =
        Map.of("odd `table", Set.of("the key", "big", "n", "t", "l", "d", "m", "latin"));
    try (Connection connection = TestServers.connect(definition)) {
      run(
          connection,
          "CREATE TABLE \"odd `table\" (\"the key\" VARCHAR(20) PRIMARY KEY, big BIGINT UNSIGNED, n DECIMAL(8,3),"
              + " t TIMESTAMP(3) NULL, l DATETIME, d DATE, m ENUM('fine', 'wilting'),"
              + " latin VARCHAR(20) CHARACTER SET latin1, rest TEXT)",
          "SET time_zone = '+09:00'");
      assertThatThrownBy(() -> source.prepare(watched))
          .isInstanceOf(NotPreparedException.class)
          .hasMessageContaining("GRANT SELECT, INSERT, UPDATE, DELETE, CREATE, DROP, TRIGGER ON `");
      TestServers.allowJournal(definition);
      source.prepare(watched);
      Map<String, Object> told =
          change(
              source,
              connection,
              "INSERT INTO \"odd `table\" VALUES ('a/1', 18446744073709551615, 1.5, '2026-05-04 19:00:00.250',"
                  + " '2026-05-04 10:00:00', '2026-05-04', 'wilting', 'Käfer', 'not told')");
      Map<String, Object> expected = new LinkedHashMap<>();
      expected.put("the key", "a/1");
      expected.put("big", "18446744073709551615");
      expected.put("n", "1.500");
      expected.put("t", "2026-05-04T10:00:00.25Z");
      expected.put("l", "2026-05-04 10:00:00");
      expected.put("d", "2026-05-04");
      expected.put("m", "wilting");
      expected.put("latin", "Käfer");
      assertThat(told).isEqualTo(expected);
      source.forget(OWN);
      run(connection, "DELETE FROM \"odd `table\"");
    }
  }

  /** What the journal tells of a change. */
  private static Map<String, Object> change(SqlSource source, Connection connection, String sql)
      throws Exception {
    try (Source.Capture capture = source.capture("test@here")) {
      Position position = capture.now();
      run(connection, sql);
      Changes changes = capture.after(position, 10, WAIT);
      assertThat(changes.list()).hasSize(1);
      capture.done(changes.upTo());
      assertThat(capture.after(changes.upTo(), 10, NOT_LONG).list()).isEmpty();
      return changes.list().getFirst().columns();
    }
  }

  private static void run(Connection connection, String... statements) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }
}
