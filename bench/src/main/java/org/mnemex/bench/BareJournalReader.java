package org.mnemex.bench;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.concurrent.atomic.AtomicLong;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.Garden;

/** Follows a journal and does nothing with it: the least that a follower must do. */
final class BareJournalReader implements BenchDatabase.BareReader {
  private static final long POLL_MILLIS = 5;

  private final AtomicLong seen = new AtomicLong();
  private final Connection connection;
  private @Nullable Thread thread;
  private volatile boolean stopping;

  BareJournalReader(Path garden) throws SQLException {
    connection = DriverManager.getConnection(Garden.url(garden));
  }

  @Override
  public void begin() {
    thread = Thread.ofPlatform().daemon().start(this::follow);
  }

  private void follow() {
    try (connection;
        Statement statement = connection.createStatement()) {
      long version = -1;
      while (!stopping) {
        long now = number(statement, "PRAGMA data_version");
        if (now != version) {
          version = now;
          seen.set(
              number(statement, "SELECT seq FROM sqlite_sequence WHERE name='mnemex_journal'"));
        } else {
          Thread.sleep(POLL_MILLIS);
        }
      }
    } catch (SQLException | InterruptedException e) {
      throw new IllegalStateException(e);
    }
  }

  private static long number(Statement statement, String sql) throws SQLException {
    try (ResultSet rows = statement.executeQuery(sql)) {
      return rows.next() ? rows.getLong(1) : 0;
    }
  }

  /** The highest number that was seen. */
  @Override
  public long seen() {
    return seen.get();
  }

  @Override
  public void close() throws InterruptedException {
    stopping = true;
    Thread running = thread;
    if (running != null) {
      running.join();
    }
  }
}
