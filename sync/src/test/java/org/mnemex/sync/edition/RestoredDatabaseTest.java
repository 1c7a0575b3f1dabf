package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mnemex.sync.Plants;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/** An older copy of a database takes its place, and its journal counts on from there. */
class RestoredDatabaseTest {
  private static final int PLANTS = 20;

  /** What has a journal. */
  enum Kind {
    SQLITE,
    POSTGRES,
    MARIADB
  }

  @TempDir private Path folder;
  private Kind kind;
  private Path file;
  private SourceDefinition.Server server;
  private Follower follower;

  private void start(Kind of) throws Exception {
    kind = of;
    Source source =
        switch (kind) {
          case SQLITE -> {
            file = folder.resolve("garden.db");
            yield new SqliteSource(
                new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING));
          }
          case POSTGRES -> {
            server =
                TestServers.followed(TestServers.newPostgres(), new SourceDefinition.Journal());
            yield new PostgresSource(server);
          }
          case MARIADB -> {
            server =
                TestServers.followed(
                    TestServers.newMariadbWithJournal(), new SourceDefinition.Journal());
            yield new MariadbSource(server);
          }
        };
    run("CREATE TABLE plant (id INT PRIMARY KEY, name VARCHAR(50))");
    for (int id = 1; id <= PLANTS; id++) {
      run("INSERT INTO plant VALUES (%d, 'fern %d')".formatted(id, id));
    }
    follower = Follower.start(Plants.DEFINITION, source, folder.resolve("index"));
    change(5, "before");
    follower.awaitTrue();
  }

  @AfterEach
  void close() {
    if (follower != null) {
      follower.close();
    }
  }

  private Connection connect() throws SQLException {
    return kind == Kind.SQLITE
        ? DriverManager.getConnection("jdbc:sqlite:" + file + "?busy_timeout=10000")
        : TestServers.connect(server);
  }

  private void run(String... statements) throws SQLException {
    try (Connection connection = connect();
        Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }

  /** Changes the first plants, one line of the journal each. */
  private void change(int plants, String name) throws SQLException {
    for (int id = 1; id <= plants; id++) {
      run("UPDATE plant SET name = '%s' WHERE id = %d".formatted(name, id));
    }
  }

  private void copy() throws SQLException {
    if (kind == Kind.SQLITE) {
      run("VACUUM INTO '%s'".formatted(folder.resolve("copy.db")));
      return;
    }
    for (String table : tables()) {
      run("CREATE TABLE copy_%1$s AS SELECT * FROM %1$s".formatted(table));
    }
  }

  private static List<String> tables() {
    return List.of("plant", "mnemex_journal", "mnemex_journal_state", "mnemex_journal_reader");
  }

  private void restore() throws Exception {
    switch (kind) {
      case SQLITE -> {
        for (String more : List.of("-wal", "-shm")) {
          Files.deleteIfExists(Path.of(file + more));
        }
        Files.copy(folder.resolve("copy.db"), file, StandardCopyOption.REPLACE_EXISTING);
      }
      case POSTGRES -> {
        // As pg_restore does: rows come without triggers, counters are set back.
        for (String table : tables()) {
          run(
              "SET session_replication_role = 'replica'; DELETE FROM %1$s; INSERT INTO %1$s %2$s SELECT * FROM copy_%1$s"
                  .formatted(
                      table, table.equals("mnemex_journal") ? "OVERRIDING SYSTEM VALUE" : ""));
        }
        run(
            "SELECT setval(pg_get_serial_sequence('mnemex_journal', 'seq'), (SELECT max(seq) FROM copy_mnemex_journal))");
      }
      case MARIADB -> {
        run("DELETE FROM plant", "INSERT INTO plant SELECT * FROM copy_plant");
        for (String table : tables().subList(1, 4)) {
          run("DELETE FROM " + table, "INSERT INTO %1$s SELECT * FROM copy_%1$s".formatted(table));
        }
        run("ALTER TABLE mnemex_journal AUTO_INCREMENT = 1");
      }
      default -> throw new IllegalStateException();
    }
  }

  @ParameterizedTest
  @EnumSource
  void anOlderCopyIsNoticedAtTheNextStart(Kind of) throws Exception {
    start(of);
    copy();
    change(5, "lost");
    follower.awaitTrue();
    follower.stop();
    restore();
    follower.restart();
    follower.awaitTruth(2);
  }

  @ParameterizedTest
  @EnumSource
  void anOlderCopyThatHasCountedOnIsNoticed(Kind of) throws Exception {
    start(of);
    copy();
    change(5, "lost");
    follower.awaitTrue();
    follower.stop();
    restore();
    // More lines than were lost, of other plants.
    for (int id = 11; id <= PLANTS; id++) {
      run("UPDATE plant SET name = 'new' WHERE id = " + id);
    }
    follower.restart();
    follower.awaitTruth(2);
  }

  @ParameterizedTest
  @EnumSource
  void anOlderCopyIsNoticedWhileItIsFollowed(Kind of) throws Exception {
    start(of);
    copy();
    change(5, "lost");
    follower.awaitTrue();
    restore();
    follower.awaitTruth(2);
    change(3, "new");
    follower.awaitTruth(2);
  }

  @ParameterizedTest
  @EnumSource
  void whatIsAsItWasIsFollowedOn(Kind of) throws Exception {
    start(of);
    // Long enough for commits and trimming.
    follower.clock.jump(Duration.ofMinutes(1));
    change(4, "more");
    follower.awaitTrue();
    follower.clock.jump(Duration.ofMinutes(1));
    change(3, "and more");
    follower.awaitTrue();
    follower.stop();
    change(2, "meanwhile");
    follower.restart();
    follower.awaitTruth(1);
  }

  @Test
  void anotherFileOfTheSameNameIsRead() throws Exception {
    start(Kind.SQLITE);
    copy();
    Path other = folder.resolve("other.db");
    Files.copy(folder.resolve("copy.db"), other);
    change(2, "lost");
    follower.awaitTrue();
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + other);
        Statement statement = connection.createStatement()) {
      for (int id = 1; id <= 10; id++) {
        statement.execute("UPDATE plant SET name = 'other' WHERE id = " + id);
      }
    }
    Files.move(other, file, StandardCopyOption.REPLACE_EXISTING);
    follower.awaitTruth(2);

    // The same history under another file goes on without a new edition.
    Path same = folder.resolve("same.db");
    run("VACUUM INTO '%s'".formatted(same));
    Files.move(same, file, StandardCopyOption.REPLACE_EXISTING);
    change(1, "after");
    follower.awaitTruth(2);

    Files.delete(file);
    Follower.await(() -> String.valueOf(follower.status().problem()).contains("does not exist"));
    assertThat(follower.documents()).isEqualTo(PLANTS);
  }
}
