package org.mnemex.sync.sqlite;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.FutureTask;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;

/** A file that is moved into the place of the database. */
class ReplacedFileTest {
  private static final int PLANTS = 2000;

  /** SQLite writes the pages of a transaction beyond these to the file before it ends. */
  private static final String FEW_PAGES = "PRAGMA cache_size = 5";

  @TempDir private Path folder;
  private Path file;
  private SqliteSource source;

  @BeforeEach
  void make() throws Exception {
    file = folder.resolve("garden.db");
    source = at(file);
    try (Connection connection = open(file)) {
      run(
          connection,
          "CREATE TABLE plant (id INTEGER PRIMARY KEY, name TEXT)",
          "WITH RECURSIVE n(id) AS (SELECT 1 UNION ALL SELECT id + 1 FROM n WHERE id < %d)"
                  .formatted(PLANTS)
              + " INSERT INTO plant SELECT id, 'a fern with a long name' FROM n");
    }
    source.prepare(Map.of("plant", Set.of("id")));
  }

  private static SqliteSource at(Path file) {
    return new SqliteSource(
        new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING));
  }

  private static Connection open(Path file) throws SQLException {
    return DriverManager.getConnection("jdbc:sqlite:" + file + "?busy_timeout=10000");
  }

  private static void run(Connection connection, String... statements) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }

  private static Path beside(Path file, String ending) {
    return Path.of(file + ending);
  }

  @Test
  void aWriterOfTheNewFileKeepsItsJournal() throws Exception {
    Path copy = Files.copy(file, folder.resolve("copy.db"));
    try (SqliteCapture capture = new SqliteCapture(source, "reader")) {
      Position now = capture.now();
      FutureTask<Changes> waiting =
          new FutureTask<>(() -> capture.after(now, 10, Duration.ofSeconds(10)));
      Thread thread = Thread.ofPlatform().start(waiting);
      while (thread.getState() != Thread.State.TIMED_WAITING) {
        Thread.onSpinWait();
      }
      Files.move(copy, file, StandardCopyOption.REPLACE_EXISTING);
      try (Connection writer = open(file)) {
        run(writer, FEW_PAGES, "BEGIN IMMEDIATE", "UPDATE plant SET name = 'new'");
        // The reader is refused: the journal is not one that was left behind.
        assertThatThrownBy(waiting::get).hasMessageContaining("garden.db");
        assertThat(beside(file, "-journal")).exists();
        run(writer, "COMMIT");
      }
      assertThat(capture.after(now, 10, Duration.ZERO).list()).isNotEmpty();
    }
  }
}
