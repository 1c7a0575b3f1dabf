package org.mnemex.sync.record;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.ZoneId;
import java.util.Map;
import java.util.Random;
import java.util.function.Supplier;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import net.jqwik.api.lifecycle.BeforeTry;
import org.mnemex.garden.server.Folders;
import org.mnemex.sync.Plants;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.Follower;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/**
 * Tables that change at random and are followed by their watermarks: whole seconds, so that many
 * changes have the same one; none at all; a clock that is put back; transactions that commit later
 * than others that began after them.
 */
class PollModelTest {
  private static final int PLANTS = 6;

  /** Far more than a transaction or a clock of this test is late. */
  private static final SourceDefinition.Poll POLL =
      new SourceDefinition.Poll(
          Map.of("plant", "changed", "bed", "changed"),
          Duration.ofMillis(20),
          Duration.ofHours(1),
          ZoneId.of("UTC"));

  private Path folder;

  @BeforeTry
  void make() throws IOException {
    folder = Files.createTempDirectory("mnemex-poll");
  }

  @AfterTry
  void clean() throws IOException {
    Folders.delete(folder);
  }

  /** Opens connections to a database. */
  @FunctionalInterface
  private interface Connections {
    Connection open() throws SQLException;
  }

  @Property(tries = 4)
  void sqlite(@ForAll long seed) throws Exception {
    Path file = folder.resolve("garden.db");
    follow(
        () -> DriverManager.getConnection("jdbc:sqlite:" + file + "?busy_timeout=10000"),
        () ->
            new SqliteSource(
                new SourceDefinition.Sqlite(
                    "garden", file, new SourceDefinition.Following(true, 0, POLL))),
        new Random(seed).nextBoolean()
            ? "TEXT DEFAULT (strftime('%Y-%m-%d %H:%M:%S', 'now'))"
            : "INTEGER DEFAULT (unixepoch())",
        folder,
        new Random(seed));
  }

  @Property(tries = 2)
  void postgres(@ForAll long seed) throws Exception {
    SourceDefinition.Server server = TestServers.followed(TestServers.newPostgres(), POLL);
    follow(
        () -> TestServers.connect(server),
        () -> new PostgresSource(server),
        "timestamptz(0) DEFAULT now()",
        folder,
        new Random(seed));
  }

  @Property(tries = 2)
  void mariadb(@ForAll long seed) throws Exception {
    SourceDefinition.Server server = TestServers.followed(TestServers.newMariadb(), POLL);
    follow(
        () -> TestServers.connect(server),
        () -> new MariadbSource(server),
        "timestamp NULL DEFAULT current_timestamp",
        folder,
        new Random(seed));
  }

  private static void follow(
      Connections connections, Supplier<Source> source, String changed, Path folder, Random random)
      throws Exception {
    try (Connection connection = connections.open();
        Connection late = connections.open()) {
      run(
          connection,
          "CREATE TABLE bed (id INT PRIMARY KEY, title VARCHAR(50), changed " + changed + ")",
          "CREATE TABLE plant (id INT PRIMARY KEY, name VARCHAR(50), bed_id INT, changed "
              + changed
              + ")");
      boolean isSqlite = connection.getMetaData().getDatabaseProductName().equals("SQLite");
      // Often the tables are empty when they are looked at first.
      if (random.nextBoolean()) {
        run(connection, "INSERT INTO plant (id, name, bed_id) VALUES (0, 'first', 1)");
      }
      try (Follower follower =
          Follower.start(Plants.IN_BEDS, source.get(), folder.resolve("index"))) {
        boolean open = false;
        for (int round = 0; round < 25; round++) {
          for (int n = random.nextInt(4); n >= 0; n--) {
            change(connection, changed, random);
          }
          if (!isSqlite && !open && random.nextInt(4) == 0) {
            // It has the moment of now, and is seen rounds later.
            late.setAutoCommit(false);
            run(
                late,
                "INSERT INTO plant (id, name, bed_id) VALUES (%d, 'late', 2)"
                    .formatted(1000 + round));
            open = true;
          } else if (open && random.nextInt(3) == 0) {
            late.commit();
            open = false;
          }
          if (random.nextInt(3) == 0) {
            follower.awaitTrue();
          }
        }
        if (open) {
          late.commit();
        }
        late.setAutoCommit(true);
        follower.awaitTruth(1);
        assertThat(follower.documents()).isPositive();
      }
    }
  }

  private static void change(Connection connection, String changed, Random random)
      throws SQLException {
    int id = random.nextInt(PLANTS);
    // The table's own moment of now, none, or a clock that was put back by some minutes.
    String now = changed.substring(changed.indexOf("DEFAULT") + "DEFAULT".length());
    String name = "n" + random.nextInt(3);
    switch (random.nextInt(6)) {
      case 0 ->
          run(
              connection,
              "DELETE FROM plant WHERE id = -1",
              "INSERT INTO plant (id, name, bed_id) SELECT %d, '%s', %d WHERE NOT EXISTS (SELECT 1 FROM plant WHERE id = %d)"
                  .formatted(id, name, random.nextInt(3), id));
      case 1 ->
          run(
              connection,
              "INSERT INTO bed (id, title) SELECT %1$d, '%2$s' WHERE NOT EXISTS (SELECT 1 FROM bed WHERE id = %1$d)"
                  .formatted(random.nextInt(3), name));
      case 2 ->
          run(
              connection,
              "UPDATE bed SET title = '%s', changed = %s WHERE id = %d"
                  .formatted(name, now, random.nextInt(3)));
      case 3 ->
          run(
              connection,
              "UPDATE plant SET bed_id = %d, changed = %s WHERE id = %d"
                  .formatted(random.nextInt(3), now, id));
      default ->
          run(
              connection,
              "UPDATE plant SET name = '%s', changed = %s WHERE id = %d".formatted(name, now, id));
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
