package org.mnemex.sync.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.AdditionalAnswers.delegatesTo;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.sync.Plants;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.Follower;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/** What an audit takes for a difference while the database is being changed. */
class AuditTest {
  @TempDir private Path folder;

  /**
   * A value that goes back and forth is caught in the same state by every look of the audit, and
   * the index, which follows it, in the other.
   */
  @Test
  void aValueThatGoesBackAndForthIsNoDifference() throws Exception {
    Path file = folder.resolve("garden.db");
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file)) {
      run(connection, "CREATE TABLE plant (id INTEGER PRIMARY KEY, name TEXT)");
      run(connection, "INSERT INTO plant VALUES (1, 'fern'), (2, 'moss')");
      Source source =
          new SqliteSource(
              new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING));
      try (Follower follower = Follower.start(Plants.DEFINITION, source, folder.resolve("index"))) {
        AtomicInteger reads = new AtomicInteger();
        Source restless = mock(Source.class, delegatesTo(source));
        doAnswer(
                call ->
                    mock(
                        RecordReader.class,
                        reading -> {
                          boolean more =
                              List.of("read", "readBetween").contains(reading.getMethod().getName())
                                  && reads.incrementAndGet() <= 4;
                          if (more) {
                            run(connection, "UPDATE plant SET name = 'tree fern' WHERE id = 1");
                          }
                          Object read =
                              delegatesTo(
                                      source.reader(
                                          call.getArgument(0),
                                          call.getArgument(1),
                                          call.getArgument(2),
                                          call.getArgument(3)))
                                  .answer(reading);
                          if (more) {
                            run(connection, "UPDATE plant SET name = 'fern' WHERE id = 1");
                            follower.awaitTrue();
                          }
                          return read;
                        }))
            .when(restless)
            .reader(any(), any(), any(), any());
        Audit audit =
            new Audit(
                follower.live(),
                restless,
                follower.quarantine,
                new AuditScope.All(),
                follower.clock);
        assertThat(audit.run(false).statement()).contains("; 0 missing, 0 stale, 0 extra;");
        assertThat(reads.get()).isGreaterThan(4);
      }
    }
  }

  private static void run(Connection connection, String sql) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }
}
