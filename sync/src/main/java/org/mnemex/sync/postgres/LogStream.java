package org.mnemex.sync.postgres;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.record.SqlDatabase;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.SourceUnavailableException;
import org.postgresql.PGConnection;
import org.postgresql.replication.LogSequenceNumber;
import org.postgresql.replication.PGReplicationStream;

/**
 * Two connections to a server: one streams its log from a replication slot, the other answers
 * questions. Used by one thread, except {@link #abort}.
 */
final class LogStream implements AutoCloseable {
  /** How long a message is waited for before the one who waits looks at other things. */
  private static final Duration MESSAGE_WAIT = Duration.ofMillis(100);

  /** The driver tells the server that we are still here when it is asked for messages. */
  private static final Duration MAX_SILENCE = Duration.ofSeconds(1);

  private static final long POLL_MILLIS = 1;
  private static final int STATUS_SECONDS = 10;
  private static final Duration VISIBLE_WAIT = Duration.ofSeconds(30);
  private static final Duration ENDS_WAIT = Duration.ofSeconds(100);

  /** A server takes a moment to notice that the connection that used a slot is closed. */
  private static final int BUSY_TRIES = 100;

  private static final long BUSY_PAUSE_MILLIS = 100;
  private static final String BUSY = "55006";

  private final PostgresSource source;
  private volatile @Nullable Connection queries;
  private volatile @Nullable Connection replication;
  private @Nullable ArrivalSocket socket;
  private @Nullable PGReplicationStream stream;

  /**
   * Whether nothing had arrived when it was last waited for, and the driver was not asked since.
   */
  private boolean silent;

  private long asked;

  LogStream(PostgresSource source) {
    this.source = source;
  }

  /**
   * A replication slot.
   *
   * @param confirmed up to where the server keeps nothing for it
   * @param lost whether the server has invalidated it
   */
  record Slot(String name, long confirmed, boolean lost) {
    /**
     * Up to where the server keeps nothing for it.
     *
     * @throws PositionLostException if the server has invalidated it
     */
    long start() {
      if (lost) {
        throw new PositionLostException(
            "the server has invalidated replication slot '%s': it needed more log than"
                    .formatted(name)
                + " max_slot_wal_keep_size allows");
      }
      return confirmed;
    }
  }

  /** All slots of the database that could be ours, by name. */
  Map<String, Slot> slots() throws SQLException, SourceUnavailableException {
    Map<String, Slot> slots = new HashMap<>();
    try (Statement statement = queries().createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT slot_name, confirmed_flush_lsn, to_jsonb(s) ->> 'wal_status'"
                    + " FROM pg_replication_slots s WHERE database = current_database()"
                    + " AND slot_name LIKE 'mnemex!_%' ESCAPE '!'"
                    + " AND confirmed_flush_lsn IS NOT NULL")) {
      while (rows.next()) {
        String name = rows.getString(1);
        slots.put(
            name,
            new Slot(
                name,
                LogSequenceNumber.valueOf(rows.getString(2)).asLong(),
                "lost".equals(rows.getString(3))));
      }
    }
    return slots;
  }

  /** Creates a slot, once all transactions that are open now have ended. */
  Slot create(String slot) throws SQLException, SourceUnavailableException {
    try (PreparedStatement create =
        queries()
            .prepareStatement(
                "SELECT lsn FROM pg_create_logical_replication_slot(?, 'pgoutput')")) {
      create.setString(1, slot);
      try (ResultSet rows = create.executeQuery()) {
        rows.next();
        return new Slot(slot, LogSequenceNumber.valueOf(rows.getString(1)).asLong(), false);
      }
    }
  }

  /** Makes a copy of a slot that lasts as long as this stream. */
  void copy(String slot, String copy) throws SQLException, SourceUnavailableException {
    try (Statement statement = replication().createStatement()) {
      statement.execute(
          "SELECT pg_copy_logical_replication_slot('%s', '%s', true)".formatted(slot, copy));
    }
  }

  /** Drops a slot, if there is one. */
  void drop(String slot) throws SQLException, SourceUnavailableException, InterruptedException {
    try (PreparedStatement drop =
        queries()
            .prepareStatement(
                "SELECT pg_drop_replication_slot(slot_name) FROM pg_replication_slots"
                    + " WHERE slot_name = ?")) {
      drop.setString(1, slot);
      onceFree(drop::execute);
    }
  }

  /** Lets the server forget the log up to a position, for a slot that nobody reads from. */
  void advance(String slot, long number)
      throws SQLException, SourceUnavailableException, InterruptedException {
    try (PreparedStatement advance =
        queries()
            .prepareStatement(
                "SELECT pg_replication_slot_advance(slot_name, ?::pg_lsn) FROM pg_replication_slots"
                    + " WHERE slot_name = ? AND confirmed_flush_lsn < ?::pg_lsn")) {
      String position = LogSequenceNumber.valueOf(number).asString();
      advance.setString(1, position);
      advance.setString(2, slot);
      advance.setString(3, position);
      onceFree(advance::execute);
    }
  }

  /** Something to do with a slot. */
  private interface SlotUse<T> {
    T now() throws SQLException;
  }

  private static <T> T onceFree(SlotUse<T> use) throws SQLException, InterruptedException {
    for (int tries = 1; ; tries++) {
      try {
        return use.now();
      } catch (SQLException e) {
        if (!isBusy(e) || tries == BUSY_TRIES) {
          throw e;
        }
        TimeUnit.MILLISECONDS.sleep(BUSY_PAUSE_MILLIS);
      }
    }
  }

  /** Whether the server refuses something because another connection uses the slot. */
  static boolean isBusy(SQLException e) {
    return BUSY.equals(e.getSQLState());
  }

  /**
   * Starts streaming.
   *
   * @param start not before what the slot has confirmed
   */
  void start(String slot, long start)
      throws SQLException, SourceUnavailableException, InterruptedException {
    PGConnection connection = replication().unwrap(PGConnection.class);
    stream =
        onceFree(
            () ->
                connection
                    .getReplicationAPI()
                    .replicationStream()
                    .logical()
                    .withSlotName(slot)
                    .withStartPosition(LogSequenceNumber.valueOf(start))
                    .withSlotOption("proto_version", 1)
                    .withSlotOption("publication_names", "\"" + source.publication() + "\"")
                    .withStatusInterval(STATUS_SECONDS, TimeUnit.SECONDS)
                    // Otherwise the driver confirms everything it has received.
                    .withAutomaticFlush(false)
                    .start());
  }

  /** The next message that has arrived; null if there is none. */
  @Nullable ByteBuffer next() throws SQLException {
    long now = System.nanoTime();
    if (silent && now - asked < MAX_SILENCE.toNanos() && !hasArrived()) {
      return null;
    }
    // The driver reads ahead: what has arrived may stand where it is not seen to arrive any more.
    silent = false;
    asked = now;
    return Objects.requireNonNull(stream).readPending();
  }

  private boolean hasArrived() throws SQLException {
    try {
      return Objects.requireNonNull(socket).hasArrived();
    } catch (IOException e) {
      throw new SQLException(e.getMessage(), e);
    }
  }

  /**
   * Waits until the next message arrives, but not for longer than a moment.
   *
   * @param left how long at most, if that is shorter
   */
  void awaitNext(Duration left) throws SQLException, InterruptedException {
    if (Thread.interrupted()) {
      throw new InterruptedException();
    }
    Duration wait = left.compareTo(MESSAGE_WAIT) < 0 ? left : MESSAGE_WAIT;
    try {
      silent = !Objects.requireNonNull(socket).awaitArrival(Math.max(1, (int) wait.toMillis()));
    } catch (IOException e) {
      throw new SQLException(e.getMessage(), e);
    }
  }

  /** Up to where everything was received. */
  long received() {
    return Objects.requireNonNull(stream).getLastReceiveLSN().asLong();
  }

  /** Lets the server forget the log up to a position. */
  void confirm(long number) throws SQLException {
    PGReplicationStream open = Objects.requireNonNull(stream);
    open.setFlushedLSN(LogSequenceNumber.valueOf(number));
    open.setAppliedLSN(LogSequenceNumber.valueOf(number));
    open.forceUpdateStatus();
  }

  /** Tells the server that we are still here. */
  void greet() throws SQLException {
    Objects.requireNonNull(stream).forceUpdateStatus();
  }

  /** The current end of the log. */
  long written() throws SQLException, SourceUnavailableException {
    try (Statement statement = queries().createStatement();
        ResultSet rows = statement.executeQuery("SELECT pg_current_wal_flush_lsn()")) {
      rows.next();
      return LogSequenceNumber.valueOf(rows.getString(1)).asLong();
    }
  }

  /** The database system. */
  String history() throws SQLException, SourceUnavailableException {
    try (Statement statement = replication().createStatement();
        ResultSet rows = statement.executeQuery("IDENTIFY_SYSTEM")) {
      rows.next();
      return "wal-" + rows.getString("systemid");
    }
  }

  /**
   * Waits until queries see some transactions.
   *
   * @param transactions the low 32 bits of their numbers
   */
  void awaitVisible(Set<Integer> transactions)
      throws SQLException, SourceUnavailableException, InterruptedException {
    long deadline = System.nanoTime() + VISIBLE_WAIT.toNanos();
    while (!transactions.isEmpty()) {
      String[] snapshot = snapshot();
      if (transactions.stream().allMatch(xid -> isVisible(xid, snapshot))) {
        return;
      }
      pauseBefore(
          deadline,
          "transactions of the log are not visible after %d s".formatted(VISIBLE_WAIT.toSeconds()));
    }
  }

  /** Waits until all transactions have ended that are open now. */
  void awaitEnds() throws SQLException, SourceUnavailableException, InterruptedException {
    long next = Long.parseUnsignedLong(snapshot()[1]);
    long deadline = System.nanoTime() + ENDS_WAIT.toNanos();
    while (Long.compareUnsigned(Long.parseUnsignedLong(snapshot()[0]), next) < 0) {
      pauseBefore(
          deadline,
          "a transaction has been open for more than %d s".formatted(ENDS_WAIT.toSeconds()));
    }
  }

  private void pauseBefore(long deadline, String otherwise)
      throws SourceUnavailableException, InterruptedException {
    if (System.nanoTime() > deadline) {
      throw source.unavailable(new SQLException(otherwise));
    }
    TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
  }

  /** The current snapshot: first open transaction, next one, open ones. */
  private String[] snapshot() throws SQLException, SourceUnavailableException {
    try (Statement statement = queries().createStatement();
        ResultSet rows = statement.executeQuery("SELECT pg_current_snapshot()::text")) {
      rows.next();
      return rows.getString(1).split(":", -1);
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
      PostgresSource.Replication opened = source.connectForReplication();
      open = opened.connection();
      replication = open;
      socket = opened.socket();
    }
    return open;
  }

  /** Aborts its connections. Thread-safe. */
  void abort() {
    SqlDatabase.abort(replication);
    SqlDatabase.abort(queries);
  }

  @Override
  public void close() {
    SqlDatabase.discard(stream);
    SqlDatabase.discard(replication);
    SqlDatabase.discard(queries);
    stream = null;
    replication = null;
    socket = null;
    queries = null;
  }
}
