package org.mnemex.sync.postgres;

import java.nio.ByteBuffer;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;

class LogStreamTest {
  private static final byte INSERT = 'I';
  private static final Duration MOMENT = Duration.ofMillis(20);
  private static final int TRANSACTIONS = 20;
  private static final int ROWS = 5;
  private static final int PATIENCE_SECONDS = 60;

  private final String slot = "mnemex_late_" + Long.toString(System.nanoTime(), 36);

  /** As if a transaction arrived between waiting in vain and asking. The driver reads ahead. */
  @Test
  @Timeout(PATIENCE_SECONDS)
  void whatArrivesTogetherAfterAWaitInVainIsReadTogether() throws Exception {
    SourceDefinition.Server definition = TestServers.newPostgres();
    PostgresSource source = new PostgresSource(definition);
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement();
        LogStream stream = new LogStream(source)) {
      statement.execute("CREATE TABLE plant (id bigint PRIMARY KEY, name text)");
      source.prepare(Map.of("plant", Set.of("id")));
      stream.start(slot, stream.create(slot).start());
      for (int i = 0; i < TRANSACTIONS; i++) {
        while (stream.next() != null) {
          // What the server says besides.
        }
        stream.awaitNext(MOMENT);
        statement.execute(
            "INSERT INTO plant SELECT i, 'Fern' FROM generate_series(%d, %d) i"
                .formatted(i * ROWS, i * ROWS + ROWS - 1));
        while (!isSent(statement)) {
          TimeUnit.MILLISECONDS.sleep(1);
        }
        int rows = 0;
        while (rows < ROWS) {
          ByteBuffer message = stream.next();
          if (message == null) {
            TimeUnit.MILLISECONDS.sleep(1);
          } else if (message.get(message.position()) == INSERT) {
            rows++;
          }
        }
      }
    } finally {
      try (LogStream after = new LogStream(source)) {
        after.drop(slot);
      }
    }
  }

  private boolean isSent(Statement statement) throws SQLException {
    try (ResultSet row =
        statement.executeQuery(
            "SELECT sent_lsn >= pg_current_wal_flush_lsn() FROM pg_stat_replication"
                + " JOIN pg_replication_slots ON active_pid = pid WHERE slot_name = '%s'"
                    .formatted(slot))) {
      return row.next() && row.getBoolean(1);
    }
  }
}
