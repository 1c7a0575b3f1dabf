package org.mnemex.sync.record;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/** Changes that are noticed by watermark columns, on every kind of database. */
class PollTest {
  private static final Duration WAIT = Duration.ofMinutes(2);
  private static final SourceDefinition.Poll POLL =
      new SourceDefinition.Poll(
          Map.of("plant", "changed", "bed", "changed", "label", "title"),
          Duration.ofMillis(50),
          Duration.ofMinutes(10),
          ZoneId.of("Asia/Tokyo"));
  private static final Map<String, Set<String>> WATCHED =
      Map.of("plant", Set.of("no", "bed"), "bed", Set.of("code"));

  @Test
  void rowsWithNewWatermarksAreHandedOut(@TempDir Path folder) throws Exception {
    SourceDefinition.Server postgres = TestServers.followed(TestServers.newPostgres(), POLL);
    try (Connection connection = TestServers.connect(postgres)) {
      follow(
          connection,
          new PostgresSource(postgres),
          "timestamp",
          "(clock_timestamp() AT TIME ZONE 'Asia/Tokyo')");
    }
    SourceDefinition.Server mariadb = TestServers.followed(TestServers.newMariadb(), POLL);
    try (Connection connection = TestServers.connect(mariadb)) {
      follow(
          connection,
          new MariadbSource(mariadb),
          "datetime(6)",
          "DATE_ADD(UTC_TIMESTAMP(6), INTERVAL 9 HOUR)");
    }
    Path file = folder.resolve("garden.db");
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file)) {
      follow(
          connection,
          new SqliteSource(
              new SourceDefinition.Sqlite(
                  "garden", file, new SourceDefinition.Following(false, 0, POLL))),
          "TEXT",
          "strftime('%Y-%m-%dT%H:%M:%f', 'now', '+9 hours')");
    }
  }

  private static void follow(Connection connection, Source source, String type, String now)
      throws Exception {
    run(
        connection,
        "CREATE TABLE plant (no INT PRIMARY KEY, bed VARCHAR(9), changed " + type + ")",
        "CREATE TABLE bed (code VARCHAR(9) PRIMARY KEY, changed " + type + ")",
        "CREATE TABLE label (id INT PRIMARY KEY, title VARCHAR(9))",
        "INSERT INTO plant VALUES (1, 'B1', " + now + "), (2, 'B2', " + now + ")",
        "INSERT INTO bed VALUES ('B1', '2020-01-01T00:00:00')");
    List<Requirement> requirements = source.requirements(WATCHED);
    assertThat(requirements).noneMatch(Requirement::isMissing);
    assertThat(requirements)
        .extracting(Requirement::what)
        .contains("table 'plant' has an index on changed, used to find changes");
    source.prepare(WATCHED);
    try (Source.Capture capture = source.capture("test", WATCHED)) {
      Position position = capture.now();
      run(connection, "INSERT INTO plant VALUES (3, NULL, " + now + ")");
      // The rows of the last ten minutes as well: their commit may have come late.
      List<Map<String, Object>> first = new ArrayList<>();
      position = take(capture, position, first);
      assertThat(first)
          .containsExactlyInAnyOrder(
              Map.of("no", 1L, "bed", "B1"), Map.of("no", 2L, "bed", "B2"), Map.of("no", 3L));
      run(
          connection,
          "UPDATE bed SET changed = " + now,
          "UPDATE plant SET bed = 'B1', changed = " + now + " WHERE no = 3");
      List<Map<String, Object>> second = new ArrayList<>();
      position = take(capture, position, second);
      assertThat(second).contains(Map.of("code", "B1"), Map.of("no", 3L, "bed", "B1"));
      // Within the overlap all of them once more: who knows what happened in the same second.
      List<Map<String, Object>> third = new ArrayList<>();
      take(capture, position, third);
      assertThat(third).hasSameElementsAs(second);
    }
    assertThat(source.removal(new OwnReaders("here", Set.of()))).isEmpty();
  }

  /** Changes of one look, in batches of two. */
  private static Position take(
      Source.Capture capture, Position from, List<Map<String, Object>> rows) throws Exception {
    Position position = from;
    while (true) {
      Changes changes = capture.after(position, 2, WAIT);
      assertThat(changes.list()).hasSizeLessThanOrEqualTo(2);
      changes.list().forEach(change -> rows.add(withLongs(change.columns())));
      position = changes.upTo();
      if (changes.complete() || !position.equals(from)) {
        return position;
      }
    }
  }

  /** Drivers disagree on the class of small numbers. */
  private static Map<String, Object> withLongs(Map<String, Object> columns) {
    Map<String, Object> same = new TreeMap<>(columns);
    same.replaceAll((name, value) -> value instanceof Integer i ? (Object) i.longValue() : value);
    return same;
  }

  private static void run(Connection connection, String... statements) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }
}
