package org.mnemex.sync.mariadb;

import com.github.shyiko.mysql.binlog.event.Event;
import java.io.IOException;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.record.SqlDatabase;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Follows the binary log.
 *
 * <h2>Positions</h2>
 *
 * <p>A position is the global transaction ID (GTID) of the last transaction: its domain and server
 * are the history, its sequence number is the number. Transactions come whole and in the order of
 * the log; one that exceeds the requested size is handed out in pieces under the position before
 * it, so that a crash in the middle reads it again. Its {@link FileMark} detects a restored older
 * copy of the server that has continued counting.
 *
 * <p>While distributed transactions (XA) are prepared the position stays before them, see {@link
 * BinlogDecoder}; so none may be prepared when the first position is taken.
 *
 * <h2>What the server keeps</h2>
 *
 * <p>The server does not know us and purges its log as configured. If the position is purged,
 * changes are lost, which is reported.
 *
 * <p>A server that is killed while writing leaves half an event at the end of a file, where it
 * closes every connection that reads up to it. Everything before it is handed out, and the next
 * connection starts in the next file.
 *
 * <h2>Before a change is handed out</h2>
 *
 * <p>A transaction is in the log a moment before other sessions see it. So changes are held back
 * until a consistent snapshot, whose place in the log the server reports, includes them.
 */
final class BinlogCapture implements Source.Capture {
  private static final long POLL_MILLIS = 1;
  private static final Duration VISIBLE_WAIT = Duration.ofSeconds(30);

  private static final String NUMBERED_APPLICABILITY =
      "SELECT 1 FROM information_schema.columns WHERE table_schema = 'information_schema'"
          + " AND table_name = 'COLLATION_CHARACTER_SET_APPLICABILITY' AND column_name = 'ID'";

  private final MariadbSource source;
  private volatile @Nullable Connection queries;
  private volatile @Nullable BinlogStream stream;
  private @Nullable BinlogDecoder decoder;
  private @Nullable Position next;

  /** The start of the connection. */
  private @Nullable Position openedAt;

  BinlogCapture(MariadbSource source) {
    this.source = source;
  }

  @Override
  public Position now() throws SourceUnavailableException {
    try {
      Position written = marked(written());
      // Asked after the position: transactions prepared before it that are no longer listed have
      // ended.
      try (Statement statement = queries().createStatement();
          ResultSet rows = statement.executeQuery("XA RECOVER")) {
        if (rows.next()) {
          throw new SourceUnavailableException(
              "source '%s': a distributed transaction (XA RECOVER lists it) is prepared; the log can be followed once it is committed or rolled back"
                  .formatted(source.name()),
              null);
        }
      }
      return written;
    } catch (SQLException e) {
      throw broken(e);
    }
  }

  @Override
  public Position last() throws SourceUnavailableException {
    try {
      return written();
    } catch (SQLException e) {
      throw broken(e);
    }
  }

  /** The same position, marked with the end of the log, which includes it. */
  private Position marked(Position position) throws SQLException, SourceUnavailableException {
    String file;
    long offset;
    try (Statement statement = queries().createStatement();
        ResultSet rows = statement.executeQuery("SHOW MASTER STATUS")) {
      if (!rows.next()) {
        return position;
      }
      file = rows.getString(1);
      offset = rows.getLong(2);
    }
    FileMark mark = new FileMark(server(), begun(file), offset, file);
    return new Position(position.history(), position.number(), mark.toString());
  }

  /** The last transaction of the log. */
  private Position written() throws SQLException, SourceUnavailableException {
    try (Statement statement = queries().createStatement();
        ResultSet rows =
            statement.executeQuery("SELECT @@GLOBAL.gtid_binlog_pos, @@GLOBAL.server_id")) {
      rows.next();
      String gtid = rows.getString(1);
      return gtid.isEmpty()
          ? BinlogDecoder.position(0, rows.getLong(2), 0)
          : BinlogDecoder.position(gtid);
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
      BinlogStream events = Objects.requireNonNull(stream);
      BinlogDecoder decoding = Objects.requireNonNull(decoder);
      long written = written().number();
      while (decoding.size() < limit) {
        boolean behind = decoding.reached() < written && System.nanoTime() < deadline;
        // The rest of the transaction is in transit.
        boolean sure = decoding.isOpen() || decoding.size() == 0 && behind;
        long left =
            sure
                ? TimeUnit.SECONDS.toNanos(1)
                : decoding.size() > 0 ? 0 : Math.max(0, deadline - System.nanoTime());
        Event event;
        try {
          event = events.poll(left);
        } catch (CutLogException e) {
          return upToTheCut(decoding, e);
        }
        if (event != null) {
          decoding.decode(event);
        } else if (!decoding.isOpen() && (decoding.size() > 0 || System.nanoTime() >= deadline)) {
          break;
        }
      }
      if (decoding.size() > 0) {
        awaitVisible(decoding.file(), decoding.offset());
      }
      next = decoding.committed();
      return new Changes(
          decoding.takeChanges(),
          decoding.committed(),
          !decoding.isOpen() && decoding.reached() >= written,
          decoding.takeTablesChanged());
    } catch (SQLException e) {
      throw broken(e);
    } catch (IOException e) {
      close();
      throw source.unavailable(String.valueOf(e.getMessage()), e);
    } catch (RuntimeException e) {
      close();
      throw e;
    }
  }

  /**
   * The position before half an event. A reader that continues from it receives the next file from
   * its start.
   */
  private Changes upToTheCut(BinlogDecoder decoding, CutLogException cause)
      throws SQLException, SourceUnavailableException, InterruptedException {
    if (decoding.committed().equals(openedAt)) {
      throw new PositionLostException(
          "the server does not have the log since the last position: " + cause.getMessage());
    }
    if (decoding.size() > 0) {
      awaitVisible(decoding.file(), decoding.offset());
    }
    Changes read =
        new Changes(
            decoding.takeChanges(), decoding.committed(), false, decoding.takeTablesChanged());
    BinlogStream cut = stream;
    stream = null;
    if (cut != null) {
      cut.close();
    }
    return read;
  }

  private void open(Position position) throws SQLException, SourceUnavailableException {
    close();
    String gtid = BinlogDecoder.gtid(position);
    Position last = written();
    if (last.number() < position.number()) {
      // The server would wait for that transaction.
      throw new PositionLostException(
          "the log ends at %s, before position %s: the server is a different one, or an older copy"
              .formatted(last.told(), position.told()));
    }
    long server = server();
    verify(position, server);
    decoder =
        new BinlogDecoder(
            source.definition().database(), source::watched, charsets(), server, position);
    stream = new BinlogStream(source.definition(), gtid);
    openedAt = position;
    next = position;
  }

  private long server() throws SQLException, SourceUnavailableException {
    try (Statement statement = queries().createStatement();
        ResultSet rows = statement.executeQuery("SELECT @@GLOBAL.server_id")) {
      rows.next();
      return rows.getLong(1);
    }
  }

  /**
   * Checks that the file of a position is the one that was read. A purged file, or another server
   * in this one's place, cannot be checked: the transaction number decides.
   */
  private void verify(Position position, long server)
      throws SQLException, SourceUnavailableException {
    FileMark mark = FileMark.of(position);
    if (mark == null || mark.server() != server) {
      return;
    }
    String first = null;
    long size = -1;
    try (Statement statement = queries().createStatement();
        ResultSet rows = statement.executeQuery("SHOW BINARY LOGS")) {
      while (rows.next()) {
        first = first == null ? rows.getString(1) : first;
        if (rows.getString(1).equals(mark.file())) {
          size = rows.getLong(2);
        }
      }
    }
    if (first != null && compareFiles(mark.file(), first) < 0) {
      return;
    }
    if (size < 0 || !mark.isIn(new FileMark(server, begun(mark.file()), size, mark.file()))) {
      throw new PositionLostException(
          "file '%s' of the server's log is not the one read up to position %s: an older copy was restored"
              .formatted(mark.file(), position.told()));
    }
  }

  /** When a file of the log was started, in seconds since 1970. */
  private long begun(String file) throws SourceUnavailableException {
    try (BinlogStream events = BinlogStream.ofFile(source.definition(), file)) {
      return events.begun();
    } catch (IOException e) {
      close();
      throw source.unavailable(String.valueOf(e.getMessage()), e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw source.unavailable("interrupted", e);
    }
  }

  /** Names of character sets by the numbers of their collations. */
  private Map<Integer, String> charsets() throws SQLException, SourceUnavailableException {
    Map<Integer, String> charsets = new HashMap<>();
    try (Statement statement = queries().createStatement()) {
      String table = "information_schema.collations";
      try (ResultSet rows = statement.executeQuery(NUMBERED_APPLICABILITY)) {
        if (rows.next()) {
          // From 10.10 on, a collation has one number for each of its character sets.
          table = "information_schema.collation_character_set_applicability";
        }
      }
      try (ResultSet rows =
          statement.executeQuery(
              "SELECT id, character_set_name FROM " + table + " WHERE id IS NOT NULL")) {
        while (rows.next()) {
          charsets.put(rows.getInt(1), rows.getString(2));
        }
      }
    }
    return charsets;
  }

  /** Waits until queries see the log up to an offset. */
  private void awaitVisible(String file, long offset)
      throws SQLException, SourceUnavailableException, InterruptedException {
    Connection connection = queries();
    long deadline = System.nanoTime() + VISIBLE_WAIT.toNanos();
    try (Statement statement = connection.createStatement()) {
      while (true) {
        statement.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT");
        String seenFile = "";
        long seenOffset = 0;
        try (ResultSet rows = statement.executeQuery("SHOW STATUS LIKE 'binlog_snapshot_%'")) {
          while (rows.next()) {
            switch (rows.getString(1)) {
              case "Binlog_snapshot_file" -> seenFile = rows.getString(2);
              case "Binlog_snapshot_position" -> seenOffset = rows.getLong(2);
              default -> {
                // The server's numbering of snapshots.
              }
            }
          }
        }
        statement.execute("ROLLBACK");
        int order = compareFiles(seenFile, file);
        if (order > 0 || order == 0 && seenOffset >= offset) {
          return;
        }
        if (System.nanoTime() > deadline) {
          throw new SQLException(
              "transactions of the log are not visible after %d s"
                  .formatted(VISIBLE_WAIT.toSeconds()));
        }
        TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
      }
    }
  }

  /** Files are numbered; beyond 999,999 the number is longer. */
  static int compareFiles(String one, String other) {
    return one.length() == other.length()
        ? one.compareTo(other)
        : Integer.compare(one.length(), other.length());
  }

  @Override
  public void done(Position position) {
    // The server does not retain its log for any reader.
  }

  @Override
  public void leave() {
    close();
  }

  private Connection queries() throws SourceUnavailableException {
    Connection open = queries;
    if (open == null) {
      open = source.connect();
      queries = open;
    }
    return open;
  }

  private SourceUnavailableException broken(SQLException cause) {
    close();
    return source.unavailable(cause);
  }

  @Override
  public void abort() {
    BinlogStream open = stream;
    if (open != null) {
      open.close();
    }
    SqlDatabase.abort(queries);
  }

  @Override
  public void close() {
    BinlogStream open = stream;
    Connection connection = queries;
    stream = null;
    decoder = null;
    next = null;
    queries = null;
    if (open != null) {
      open.close();
    }
    SqlDatabase.discard(connection);
  }
}
