package org.mnemex.bench;

import java.io.PrintStream;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.concurrent.TimeUnit;
import org.mnemex.client.AuditReport;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;

/** How fast a filled index is compared with its database, and follows many changes. */
final class KeepingUp {
  private static final int MAX_CHANGES = 100_000;
  private static final int CHANGES_PER_COMMIT = 100;
  private static final long PATIENCE_MINUTES = 60;

  private final PrintStream out;
  private final ServerGarden garden;
  private final MnemexClient client;

  KeepingUp(PrintStream out, ServerGarden garden, MnemexClient client) {
    this.out = out;
    this.garden = garden;
    this.client = client;
  }

  /** Sets the key of the n-th row that is changed, from 1. */
  @FunctionalInterface
  interface Key {
    void set(PreparedStatement update, int n) throws SQLException;
  }

  /**
   * Compares every record.
   *
   * @param backfill records a second of its fill
   */
  void audit(String name, long backfill) {
    long id = client.audit(name, false).id();
    ServiceProcess.await(
        () ->
            client.audits(name).stream()
                .anyMatch(report -> report.id() == id && !report.state().equals("running")));
    AuditReport.Result result = client.audits(name).getFirst().result();
    if (result == null) {
      throw new IllegalStateException("the audit failed: " + client.audits(name).getFirst());
    }
    long rate = result.records() * 1000 / Math.max(1, result.millis());
    out.printf(
        "audit of %s: %,d records/s, %.2f of its backfill; %s%n",
        name, rate, (double) rate / backfill, client.audits(name).getFirst().statement());
  }

  /**
   * A heap of changes is made while nobody follows; then each side works it off alone.
   *
   * @param endpoint one that searches the index
   * @param rows number of rows; each is changed at most once
   * @param sql changes one row
   */
  void sustained(String index, String endpoint, long rows, String sql, Key key)
      throws SQLException, InterruptedException {
    int changes = (int) Math.min(rows / CHANGES_PER_COMMIT * CHANGES_PER_COMMIT, MAX_CHANGES);
    client.pauseFeed(index);
    ServiceProcess.await(() -> "PAUSED".equals(phase(index)));
    double bareSeconds;
    try (BenchDatabase.BareReader bare = garden.bareReader()) {
      change(changes, sql, key);
      long start = System.nanoTime();
      bare.begin();
      while (bare.seen() < changes / CHANGES_PER_COMMIT) {
        Thread.onSpinWait();
      }
      bareSeconds = (System.nanoTime() - start) / 1e9;
    }
    String position = client.position(index);
    long start = System.nanoTime();
    client.resumeFeed(index);
    while (true) {
      try {
        client.search(endpoint, SearchQuery.words("").trueFor(position));
        break;
      } catch (ProblemException e) {
        // It waits for some seconds only.
        if (System.nanoTime() - start > TimeUnit.MINUTES.toNanos(PATIENCE_MINUTES)) {
          throw e;
        }
      }
    }
    double seconds = (System.nanoTime() - start) / 1e9;
    out.printf(
        "sustained: %,d changes worked off in %.1f s, %,.0f records/s; a bare receiver %,.0f rows/s; ratio %.2f%n",
        changes, seconds, changes / seconds, changes / bareSeconds, bareSeconds / seconds);
  }

  private String phase(String index) {
    IndexStatus.Edition live = client.index(index).live();
    return live == null ? "" : live.phase();
  }

  private void change(int changes, String sql, Key key) throws SQLException {
    try (Connection connection = garden.connect();
        PreparedStatement update = connection.prepareStatement(sql)) {
      connection.setAutoCommit(false);
      for (int i = 1; i <= changes; i++) {
        key.set(update, i);
        update.addBatch();
        if (i % CHANGES_PER_COMMIT == 0) {
          update.executeBatch();
          connection.commit();
        }
      }
    }
  }
}
