package org.mnemex.sync.postgres;

import java.nio.ByteBuffer;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.Locale;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.record.SqlDatabase;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.postgresql.PGConnection;
import org.postgresql.replication.LogSequenceNumber;
import org.postgresql.replication.PGReplicationStream;

/**
 * Follows the write-ahead log through a replication slot of its own.
 *
 * <h2>Positions</h2>
 *
 * <p>A position is a log sequence number after the end of a transaction, in the history of one
 * database system. Transactions come whole and in commit order. One that exceeds the requested size
 * is handed out in pieces under the position before it, so that a crash in the middle reads it
 * again.
 *
 * <p>A connection starts at the confirmed position, which is at or before the requested one, and
 * skips what lies between: the last transaction before the position must be there, and none after
 * it. So a restored older copy is noticed even if its log has continued counting.
 *
 * <h2>What the server keeps</h2>
 *
 * <p>The slot makes the server keep the log from the last confirmed position on. Only {@link #done}
 * confirms: the position of a commit that a crash cannot undo. A slot that is gone, was
 * invalidated, or was confirmed beyond the requested position (by somebody else) means lost
 * changes, which is reported.
 *
 * <h2>Before a change is handed out</h2>
 *
 * <p>A commit is in the log a moment before other sessions see it. A record read in that moment
 * would keep its old state forever. So changes are held back until a snapshot of the database
 * includes all their transactions.
 */
final class LogCapture implements Source.Capture {
  private static final int MAX_NAME = 63;
  private static final long POLL_MILLIS = 1;
  private static final int STATUS_SECONDS = 10;
  private static final Duration VISIBLE_WAIT = Duration.ofSeconds(30);
  private static final int DROP_TRIES = 50;
  private static final long DROP_PAUSE_MILLIS = 100;

  private final PostgresSource source;
  private final String slot;
  private volatile @Nullable Connection queries;
  private volatile @Nullable Connection replication;
  private @Nullable PGReplicationStream stream;
  private @Nullable LogDecoder decoder;
  private @Nullable Position next;

  LogCapture(PostgresSource source, String reader) {
    this.source = source;
    this.slot = slot(reader);
  }

  /** The slot of a reader. Long names are cut at the front: the end identifies the installation. */
  static String slot(String reader) {
    String name = "mnemex_" + cleaned(reader);
    if (name.length() <= MAX_NAME) {
      return name;
    }
    String end = "_" + Integer.toHexString(reader.hashCode()) + slotEnd(installation(reader));
    return name.substring(0, MAX_NAME - end.length()) + end;
  }

  /** The suffix of an installation's slots. */
  static String slotEnd(String installation) {
    return "_" + cleaned(installation);
  }

  private static String installation(String reader) {
    return reader.substring(reader.lastIndexOf('@') + 1);
  }

  private static String cleaned(String text) {
    return text.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9_]", "_");
  }

  @Override
  public Position now() throws SourceUnavailableException {
    try {
      Connection connection = queries();
      Long confirmed = confirmed(connection);
      if (confirmed == null) {
        confirmed = create(connection);
      }
      return new Position(history(), confirmed, CommitMark.NONE.toString());
    } catch (SQLException e) {
      throw broken(e);
    }
  }

  @Override
  public Position last() throws SourceUnavailableException {
    try {
      return new Position(history(), written());
    } catch (SQLException e) {
      throw broken(e);
    }
  }

  private Long create(Connection connection) throws SQLException {
    try (PreparedStatement create =
        connection.prepareStatement(
            "SELECT lsn FROM pg_create_logical_replication_slot(?, 'pgoutput')")) {
      create.setString(1, slot);
      try (ResultSet rows = create.executeQuery()) {
        rows.next();
        return LogSequenceNumber.valueOf(rows.getString(1)).asLong();
      }
    }
  }

  /** The slot's confirmed position, or null if there is no slot. */
  private @Nullable Long confirmed(Connection connection) throws SQLException {
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT confirmed_flush_lsn, to_jsonb(s) ->> 'wal_status' FROM pg_replication_slots s"
                + " WHERE slot_name = ?")) {
      select.setString(1, slot);
      try (ResultSet rows = select.executeQuery()) {
        if (!rows.next()) {
          return null;
        }
        if ("lost".equals(rows.getString(2))) {
          throw new PositionLostException(
              "the server has invalidated replication slot '%s': it needed more log than"
                      .formatted(slot)
                  + " max_slot_wal_keep_size allows");
        }
        return LogSequenceNumber.valueOf(rows.getString(1)).asLong();
      }
    }
  }

  @Override
  public Changes after(Position position, int limit, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    long deadline = System.nanoTime() + wait.toNanos();
    try {
      if (stream == null || !position.equals(next)) {
        open(position);
      }
      PGReplicationStream open = Objects.requireNonNull(stream);
      LogDecoder decoding = Objects.requireNonNull(decoder);
      long written = written();
      while (decoding.size() < limit) {
        ByteBuffer message = open.readPending();
        if (message != null) {
          decoding.decode(message);
        } else if (decoding.isOpen()) {
          // The rest of the transaction is in transit.
          TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
        } else if (decoding.size() > 0 || System.nanoTime() >= deadline) {
          decoding.seen(open.getLastReceiveLSN().asLong());
          break;
        } else {
          TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
        }
      }
      awaitVisible(decoding.takeTransactions());
      next = decoding.committed();
      return new Changes(
          decoding.takeChanges(),
          decoding.committed(),
          decoding.isKnown() && !decoding.isOpen() && next.number() >= written,
          decoding.takeTablesChanged());
    } catch (SQLException e) {
      throw broken(e);
    } catch (PositionLostException e) {
      close();
      throw e;
    }
  }

  private void open(Position position) throws SQLException, SourceUnavailableException {
    close();
    String history = history();
    if (!history.equals(position.history())) {
      throw new PositionLostException(
          "source '" + source.name() + "' is a different database system than before");
    }
    long written = written();
    if (Long.compareUnsigned(written, position.number()) < 0) {
      // The server would wait for its log to get there, and skip everything until then.
      throw new PositionLostException(
          "the log of source '%s' ends at %s, before position %s: an older copy was restored"
              .formatted(
                  source.name(),
                  LogSequenceNumber.valueOf(written).asString(),
                  LogSequenceNumber.valueOf(position.number()).asString()));
    }
    Long confirmed = confirmed(queries());
    if (confirmed == null) {
      throw new PositionLostException(
          "replication slot '%s' of source '%s' is gone".formatted(slot, source.name()));
    }
    if (Long.compareUnsigned(confirmed, position.number()) > 0) {
      throw new PositionLostException(
          "replication slot '%s' was moved to %s, beyond position %s"
              .formatted(
                  slot,
                  LogSequenceNumber.valueOf(confirmed).asString(),
                  LogSequenceNumber.valueOf(position.number()).asString()));
    }
    // Positions of earlier builds have no mark, so they cannot be checked.
    long start = position.mark().isEmpty() ? position.number() : confirmed;
    decoder = new LogDecoder(history, source.schema(), source::watched, position, start);
    stream =
        replication()
            .unwrap(PGConnection.class)
            .getReplicationAPI()
            .replicationStream()
            .logical()
            .withSlotName(slot)
            .withStartPosition(LogSequenceNumber.valueOf(start))
            .withSlotOption("proto_version", 1)
            .withSlotOption("publication_names", "\"" + source.publication() + "\"")
            .withStatusInterval(STATUS_SECONDS, TimeUnit.SECONDS)
            // Otherwise the driver confirms everything it has received, committed here or not.
            .withAutomaticFlush(false)
            .start();
    next = position;
  }

  /** The current end of the log. */
  private long written() throws SQLException, SourceUnavailableException {
    try (Statement statement = queries().createStatement();
        ResultSet rows = statement.executeQuery("SELECT pg_current_wal_flush_lsn()")) {
      rows.next();
      return LogSequenceNumber.valueOf(rows.getString(1)).asLong();
    }
  }

  /** Waits until queries see some transactions. */
  private void awaitVisible(Set<Integer> transactions)
      throws SQLException, SourceUnavailableException, InterruptedException {
    long deadline = System.nanoTime() + VISIBLE_WAIT.toNanos();
    while (!transactions.isEmpty()) {
      try (Statement statement = queries().createStatement();
          ResultSet rows = statement.executeQuery("SELECT pg_current_snapshot()::text")) {
        rows.next();
        String[] snapshot = rows.getString(1).split(":", -1);
        if (transactions.stream().allMatch(xid -> isVisible(xid, snapshot))) {
          return;
        }
      }
      if (System.nanoTime() > deadline) {
        throw source.unavailable(
            new SQLException(
                "transactions of the log are not visible after %d s"
                    .formatted(VISIBLE_WAIT.toSeconds())));
      }
      TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
    }
  }

  /**
   * Whether a snapshot includes a committed transaction.
   *
   * @param xid the low 32 bits of its number
   * @param snapshot {@code xmin, xmax, open transactions}
   */
  static boolean isVisible(int xid, String[] snapshot) {
    if (xid - (int) Long.parseLong(snapshot[1]) >= 0) {
      return false;
    }
    for (String open : snapshot[2].split(",", -1)) {
      if (!open.isEmpty() && (int) Long.parseLong(open) == xid) {
        return false;
      }
    }
    return true;
  }

  @Override
  public void done(Position position) throws SourceUnavailableException {
    PGReplicationStream open = stream;
    if (open != null) {
      LogSequenceNumber number = LogSequenceNumber.valueOf(position.number());
      open.setFlushedLSN(number);
      open.setAppliedLSN(number);
      try {
        open.forceUpdateStatus();
      } catch (SQLException e) {
        throw broken(e);
      }
    }
  }

  @Override
  public void leave() throws SourceUnavailableException {
    closeStream();
    try (PreparedStatement drop =
        queries()
            .prepareStatement(
                "SELECT pg_drop_replication_slot(slot_name) FROM pg_replication_slots"
                    + " WHERE slot_name = ?")) {
      drop.setString(1, slot);
      for (int tries = 1; ; tries++) {
        try {
          drop.execute();
          return;
        } catch (SQLException e) {
          // The server takes a moment to notice the closed stream.
          if (!"55006".equals(e.getSQLState()) || tries == DROP_TRIES) {
            throw e;
          }
          TimeUnit.MILLISECONDS.sleep(DROP_PAUSE_MILLIS);
        }
      }
    } catch (SQLException e) {
      throw broken(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private Connection queries() throws SourceUnavailableException {
    Connection open = queries;
    if (open == null) {
      open = source.connect();
      queries = open;
    }
    return open;
  }

  private Connection replication() throws SourceUnavailableException {
    Connection open = replication;
    if (open == null) {
      open = source.connectForReplication();
      replication = open;
    }
    return open;
  }

  private String history() throws SQLException, SourceUnavailableException {
    try (Statement statement = replication().createStatement();
        ResultSet rows = statement.executeQuery("IDENTIFY_SYSTEM")) {
      rows.next();
      return "wal-" + rows.getString("systemid");
    }
  }

  private SourceUnavailableException broken(SQLException cause) {
    close();
    return source.unavailable(cause);
  }

  private void closeStream() {
    quietly(stream);
    quietly(replication);
    stream = null;
    replication = null;
    decoder = null;
    next = null;
  }

  @Override
  public void abort() {
    SqlDatabase.abort(replication);
    SqlDatabase.abort(queries);
  }

  @Override
  public void close() {
    closeStream();
    quietly(queries);
    queries = null;
  }

  private static void quietly(@Nullable AutoCloseable resource) {
    if (resource != null) {
      try {
        resource.close();
      } catch (Exception e) {
        // The connection is being discarded anyway.
        return;
      }
    }
  }
}
