package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import org.mnemex.sync.FollowedDatabase;
import org.mnemex.sync.FollowedDatabase.Way;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;

/**
 * Tables that are swapped, made anew or taken apart while they are followed, and what captures
 * their changes is taken away: for each way of following, no change is lost in silence.
 */
class ChangedTablesTest {
  private static final int PLANTS = 40;

  private static final IndexDefinition DEFINITION =
      new IndexDefinition(
          "plants",
          "garden",
          new RecordShape(
              "plant",
              List.of("id"),
              null,
              List.of(
                  Shapes.children(
                      "notes", "note", Map.of("plant_id", ColumnRef.of("id")), List.of(), 0)),
              Set.of()),
          List.of(Shapes.field("name", "name"), Shapes.field("notes", "notes.text")),
          "");

  @TempDir private Path folder;
  private FollowedDatabase database;
  private Follower follower;

  private static final String TABLE = "(id INT PRIMARY KEY, name VARCHAR(50))";

  /**
   * An act on tables.
   *
   * @param statements what is done
   */
  private static Arguments act(List<Way> ways, String name, String... statements) {
    return Arguments.of(ways, name, List.of(statements));
  }

  static Stream<Arguments> acts() {
    return Stream.of(
            act(
                Way.ALL,
                "another table is renamed into place",
                "CREATE TABLE plant_new " + TABLE,
                "INSERT INTO plant_new SELECT id, 'new' FROM plant",
                "ALTER TABLE plant RENAME TO plant_old",
                "ALTER TABLE plant_new RENAME TO plant"),
            act(
                Way.ALL,
                "a joined table is dropped and made anew",
                "DROP TABLE note",
                "CREATE TABLE note (id INT PRIMARY KEY, plant_id INT, text VARCHAR(50))",
                "INSERT INTO note VALUES (1, 7, 'new')"),
            act(
                List.of(Way.SQLITE),
                "a trigger is dropped",
                "DROP TRIGGER mnemex_plant_upd",
                "UPDATE plant SET name = 'unseen' WHERE id = 3"),
            act(
                List.of(Way.POSTGRES_JOURNAL),
                "a trigger is switched off",
                "ALTER TABLE plant DISABLE TRIGGER mnemex_change",
                "UPDATE plant SET name = 'unseen' WHERE id = 3"),
            act(
                List.of(Way.MARIADB_JOURNAL),
                "a trigger is dropped",
                "DROP TRIGGER mnemex_plant_upd",
                "UPDATE plant SET name = 'unseen' WHERE id = 3"),
            act(
                List.of(Way.POSTGRES_LOG),
                "a table is taken out of the publication",
                "ALTER PUBLICATION \"PUBLICATION\" DROP TABLE note",
                "UPDATE note SET text = 'unseen' WHERE id = 3"),
            act(
                Way.POSTGRES,
                "a partition is detached",
                "ALTER TABLE note DETACH PARTITION note_low"),
            act(Way.POSTGRES, "a partition is truncated", "TRUNCATE note_low"),
            act(Way.POSTGRES, "a partition is dropped", "DROP TABLE note_low"),
            act(
                Way.POSTGRES,
                "a partition with rows is attached",
                "CREATE TABLE note_more (id INT PRIMARY KEY, plant_id INT, text VARCHAR(50))",
                "INSERT INTO note_more VALUES (1001, 5, 'attached')",
                "ALTER TABLE note ATTACH PARTITION note_more FOR VALUES FROM (1000) TO (2000)"))
        .flatMap(
            arguments ->
                ((List<?>) arguments.get()[0])
                    .stream().map(w -> Arguments.of(w, arguments.get()[1], arguments.get()[2])));
  }

  private void start(Way way) throws Exception {
    database = new FollowedDatabase(way, folder);
    run("CREATE TABLE plant " + TABLE);
    if (Way.POSTGRES.contains(way)) {
      run(
          "CREATE TABLE note (id INT PRIMARY KEY, plant_id INT, text VARCHAR(50)) PARTITION BY RANGE (id)",
          "CREATE TABLE note_low PARTITION OF note FOR VALUES FROM (0) TO (20)",
          "CREATE TABLE note_high PARTITION OF note FOR VALUES FROM (20) TO (1000)");
    } else {
      run("CREATE TABLE note (id INT PRIMARY KEY, plant_id INT, text VARCHAR(50))");
    }
    for (int id = 1; id <= PLANTS; id++) {
      run(
          "INSERT INTO plant VALUES (%d, 'fern %d')".formatted(id, id),
          "INSERT INTO note VALUES (%d, %d, 'note %d')".formatted(id, id, id));
    }
    follower = Follower.start(DEFINITION, database.source, folder.resolve("index"));
  }

  @AfterEach
  void close() {
    if (follower != null) {
      follower.close();
    }
  }

  private void run(String... statements) throws SQLException {
    SourceDefinition.Server server = database.server;
    try (Connection connection = database.connect();
        Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(
            server == null
                ? sql
                : sql.replace("PUBLICATION\"", "mnemex_" + server.name().replace('-', '_') + "\""));
      }
    }
  }

  @ParameterizedTest(name = "{0}: {1}")
  @MethodSource("acts")
  void noChangeIsLostInSilence(Way way, String name, List<String> statements) throws Exception {
    start(way);
    run(statements.toArray(String[]::new));
    follower.clock.jump(Duration.ofMinutes(1));
    // What made the difference is followed again afterwards, in a new edition.
    follower.awaitTruth(2);
    run("UPDATE plant SET name = 'after' WHERE id = 9");
    follower.awaitTruth(2);
    // An audit reads the same columns as the feed, so it cannot miss one that both lack.
    assertThat(follower.record("9")).contains("\"name\":\"after\"");
    // A change is visible a moment before it is counted.
    Follower.await(() -> follower.status().changes() > 0);
  }

  @Test
  void aPartitionThatIsMadeEmptyChangesNothing() throws Exception {
    start(Way.POSTGRES_LOG);
    run(
        "BEGIN; CREATE TABLE note_more PARTITION OF note FOR VALUES FROM (1000) TO (2000);"
            + " ALTER TABLE note_more REPLICA IDENTITY FULL; COMMIT",
        "INSERT INTO note VALUES (1001, 5, 'more')");
    follower.clock.jump(Duration.ofMinutes(1));
    follower.awaitTruth(1);
  }

  /** Rows that SQLite removes without a trigger, because a new one has their unique values. */
  @Test
  void aReplacedRowLeavesItsRecord() throws Exception {
    database = new FollowedDatabase(Way.SQLITE, folder);
    run(
        "CREATE TABLE plant (id INT PRIMARY KEY, name TEXT UNIQUE)",
        "CREATE TABLE note (id INTEGER PRIMARY KEY, plant_id, text TEXT)",
        "INSERT INTO plant VALUES (1, 'fern'), (2, 'moss'), (3, 'rose')",
        "INSERT INTO note VALUES (1, 1, 'of fern'), (2, 2, 'of moss')");
    follower = Follower.start(DEFINITION, database.source, folder.resolve("index"));
    for (String sql :
        Arrays.asList(
            "INSERT OR REPLACE INTO note VALUES (1, 2, 'moved')",
            "INSERT OR REPLACE INTO plant VALUES (4, 'moss')",
            "UPDATE OR REPLACE plant SET name = 'rose' WHERE id = 4",
            "UPDATE OR REPLACE note SET id = 2 WHERE id = 1",
            "INSERT INTO plant VALUES (5, 'ivy') ON CONFLICT DO NOTHING",
            // Bytes where a number belongs must not make the statement fail.
            "INSERT INTO note VALUES (9, x'FF00', 'bytes')",
            "UPDATE note SET plant_id = 1 WHERE id = 9")) {
      run(sql);
      follower.awaitTrue();
      assertThat(follower.audit(false).statement())
          .as(sql)
          .contains("; 0 missing, 0 stale, 0 extra;");
    }
    assertThat(follower.keys()).containsExactlyInAnyOrder("1", "4", "5");
    assertThat(follower.live().number()).isEqualTo(1);
  }
}
