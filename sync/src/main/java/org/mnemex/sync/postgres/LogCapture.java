package org.mnemex.sync.postgres;

import java.nio.ByteBuffer;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.shared.ChangeWindow;
import org.mnemex.sync.shared.Piece;
import org.mnemex.sync.shared.WindowReader;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Reached;
import org.mnemex.sync.source.ReaderPositions;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.postgresql.replication.LogSequenceNumber;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Follows the write-ahead log for one reader: usually through the {@link LogReceiver} of all
 * readers, and through a stream of its own while it is behind that.
 *
 * <h2>Positions</h2>
 *
 * <p>A position is a log sequence number after the end of a transaction, in the history of one
 * database system. Transactions come whole and in commit order. One that exceeds the requested size
 * is handed out in pieces under the position before it, so that a crash in the middle reads it
 * again.
 *
 * <p>A log is read from the slot's confirmed position, which is at or before the requested one, and
 * what lies between is skipped: the last transaction before the position must be there, and none
 * after it. So a restored older copy is noticed even if its log has continued counting.
 *
 * <h2>What the server keeps</h2>
 *
 * <p>The slot of all readers makes the server keep the log from the least position on that one of
 * them has confirmed. Only {@link #done} confirms: the position of a commit that a crash cannot
 * undo. A slot that is gone, was invalidated, or was confirmed beyond the requested position means
 * lost changes, which is reported.
 *
 * <h2>Behind</h2>
 *
 * <p>What a reader needs may be gone from the receiver's window, or not be watched by it yet, or
 * the slot may be in use elsewhere. Such a reader streams from a copy of the slot, which the server
 * forgets with the connection, until it can join. A reader of an earlier version has a slot of its
 * own; it reads that up to where the slot of all begins, and then drops it.
 *
 * <h2>Before a change is handed out</h2>
 *
 * <p>A commit is in the log a moment before other sessions see it. A record read in that moment
 * would keep its old state forever. So changes are held back until a snapshot of the database
 * includes all their transactions. For the same reason, all transactions before a first position
 * have ended when it is given.
 */
final class LogCapture implements Source.Capture {
  private static final Logger LOG = LoggerFactory.getLogger(LogCapture.class);
  private static final Duration OPENING_WAIT = Duration.ofMillis(50);
  private static final Duration REST_WAIT = Duration.ofSeconds(1);
  private static final Duration END_WAIT = Duration.ofSeconds(2);

  private final PostgresSource source;
  private final LogReceiver receiver;
  private final ReaderPositions positions;
  private final String reader;
  private final Map<String, Set<String>> columns;

  private final WindowReader shared;
  private volatile @Nullable LogStream stream;
  private @Nullable LogDecoder decoder;
  private @Nullable Position next;
  private volatile boolean aborted;
  private volatile @Nullable LogStream starting;

  LogCapture(
      PostgresSource source,
      LogReceiver receiver,
      ReaderPositions positions,
      String reader,
      Map<String, Set<String>> columns) {
    this.source = source;
    this.receiver = receiver;
    this.positions = positions;
    this.reader = reader;
    this.columns = columns;
    this.shared = new WindowReader(columns);
  }

  /** Its name. */
  String reader() {
    return reader;
  }

  /** The columns that it needs, by table. */
  Map<String, Set<String>> columns() {
    return columns;
  }

  /** The slot that it has if it comes from an earlier version. */
  String ownSlot() {
    return SlotNames.slot(reader);
  }

  @Override
  public void continueFrom(Position position) {
    positions.note(source.name(), reader, position);
    receiver.watch(columns);
  }

  @Override
  public Position now() throws SourceUnavailableException {
    Position before = positions.of(source.name(), reader);
    if (before != null) {
      // It was asked before, and the changes since then are kept.
      return before;
    }
    positions.expect(source.name(), reader);
    try (LogStream asking = new LogStream(source)) {
      starting = asking;
      while (!positions.areKnown() && !aborted) {
        TimeUnit.NANOSECONDS.sleep(OPENING_WAIT.toNanos());
      }
      ChangeWindow window = enter(true);
      long written = asking.written();
      asking.awaitEnds();
      Position seen = window == null ? null : window.awaitEnd(written, END_WAIT);
      Position now = seen == null ? new Position(asking.history(), written) : seen;
      positions.note(source.name(), reader, now);
      return now;
    } catch (SQLException e) {
      throw broken(e);
    } catch (InterruptedException e) {
      throw interrupted(e);
    } finally {
      starting = null;
    }
  }

  @Override
  public Position last() throws SourceUnavailableException {
    try (LogStream asking = new LogStream(source)) {
      return new Position(asking.history(), asking.written());
    } catch (SQLException e) {
      throw broken(e);
    }
  }

  /** The window of all readers; null if their slot is in use elsewhere. */
  private @Nullable ChangeWindow enter(boolean create)
      throws SourceUnavailableException, InterruptedException {
    ChangeWindow window = receiver.enter(this, create);
    if (window == null) {
      return null;
    }
    Exception why = window.awaitOpen(() -> aborted);
    if (why == null) {
      return window;
    }
    if (receiver.isBusy()) {
      return null;
    }
    throw failed(why);
  }

  /** The same exception for this reader, which may try again. */
  private SourceUnavailableException failed(Exception why) {
    close();
    if (why instanceof PositionLostException lost) {
      throw new PositionLostException(String.valueOf(lost.getMessage()));
    }
    return new SourceUnavailableException(String.valueOf(why.getMessage()), why);
  }

  @Override
  public Changes after(Position position, int limit, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    try {
      if (!positions.areKnown()) {
        // Their editions are still being opened; they all have to take part from the beginning.
        TimeUnit.NANOSECONDS.sleep(Math.min(wait.toNanos(), OPENING_WAIT.toNanos()));
        return new Changes(List.of(), position, false);
      }
      if (!position.equals(next)) {
        leavePlace();
        next = position;
        if (positions.of(source.name(), reader) == null) {
          positions.note(source.name(), reader, position);
        }
      }
      if (!shared.isIn() && stream == null) {
        ChangeWindow.Place place = join(position, wait);
        if (place == ChangeWindow.Place.AHEAD) {
          return new Changes(List.of(), position, false);
        }
        if (place == ChangeWindow.Place.BEHIND) {
          stream(position);
        }
      }
      return stream == null ? shared(position, limit, wait) : own(limit, wait);
    } catch (SQLException e) {
      throw broken(e);
    } catch (PositionLostException e) {
      close();
      throw e;
    }
  }

  @Override
  public @Nullable Reached reached() {
    return shared.reached();
  }

  @Override
  public void wake() {
    shared.wake();
  }

  /** Joins the others; waits until the log is read up to a position. */
  private ChangeWindow.Place join(Position position, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    ChangeWindow window = enter(false);
    if (window == null || Long.compareUnsigned(position.number(), receiver.given()) < 0) {
      return ChangeWindow.Place.BEHIND;
    }
    return shared.join(window, position, position.number(), columns, wait);
  }

  /** The next changes from the window of all readers. */
  private Changes shared(Position position, int limit, Duration wait)
      throws SourceUnavailableException, SQLException, InterruptedException {
    Changes changes;
    try {
      changes = shared.after(limit, wait);
    } catch (InterruptedException e) {
      throw e;
    } catch (Exception e) {
      throw failed(e);
    }
    if (changes == null) {
      LOG.info("source '{}': reader '{}' is behind the others", source.name(), reader);
      stream(position);
      return own(limit, wait);
    }
    next = changes.upTo();
    return changes;
  }

  /** Opens a stream of its own. */
  private void stream(Position position)
      throws SQLException, SourceUnavailableException, InterruptedException {
    LogStream own = new LogStream(source);
    stream = own;
    String history = own.history();
    if (!history.equals(position.history())) {
      throw new PositionLostException(
          "source '" + source.name() + "' is a different database system than before");
    }
    requireWritten(own.written(), position);
    LogStream.Slot from = slotFor(position, own.slots());
    if (!from.name().equals(ownSlot())) {
      String copy = SlotNames.slot("behind/" + reader);
      own.copy(from.name(), copy);
      from = Objects.requireNonNull(own.slots().get(copy));
    }
    // Positions of earlier builds have no mark, so they cannot be checked.
    long start = position.mark().isEmpty() ? position.number() : from.start();
    decoder =
        new LogDecoder(
            history,
            source.schema(),
            table -> columns.getOrDefault(table, Set.of()),
            position,
            start);
    own.start(from.name(), start);
  }

  /**
   * The slot of all, or that of its own if only that has what the reader needs.
   *
   * @throws PositionLostException if none has
   */
  private LogStream.Slot slotFor(Position position, Map<String, LogStream.Slot> slots) {
    LogStream.Slot all = slots.get(receiver.slot());
    LogStream.Slot own = slots.get(ownSlot());
    LogStream.Slot slot = all == null || own != null && isPast(all, position) ? own : all;
    if (slot == null) {
      throw new PositionLostException(
          "replication slot '%s' of source '%s' is gone".formatted(receiver.slot(), source.name()));
    }
    if (isPast(slot, position)) {
      throw new PositionLostException(
          "replication slot '%s' was moved to %s, beyond position %s"
              .formatted(
                  slot.name(),
                  LogSequenceNumber.valueOf(confirmed(slot)).asString(),
                  LogSequenceNumber.valueOf(position.number()).asString()));
    }
    return slot;
  }

  private boolean isPast(LogStream.Slot slot, Position position) {
    return Long.compareUnsigned(confirmed(slot), position.number()) > 0;
  }

  /** Up to where changes were given up, which the server may not know of yet. */
  private long confirmed(LogStream.Slot slot) {
    long start = slot.start();
    long given = receiver.given();
    return slot.name().equals(receiver.slot()) && Long.compareUnsigned(given, start) > 0
        ? given
        : start;
  }

  private void requireWritten(long written, Position position) {
    if (Long.compareUnsigned(written, position.number()) < 0) {
      // The server would wait for its log to get there, and skip everything until then.
      throw new PositionLostException(
          "the log of source '%s' ends at %s, before position %s: an older copy was restored"
              .formatted(
                  source.name(),
                  LogSequenceNumber.valueOf(written).asString(),
                  LogSequenceNumber.valueOf(position.number()).asString()));
    }
  }

  /** The next changes from the stream of its own; joins the others if it can. */
  private Changes own(int limit, Duration wait)
      throws SQLException, SourceUnavailableException, InterruptedException {
    long deadline = System.nanoTime() + wait.toNanos();
    LogStream open = Objects.requireNonNull(stream);
    LogDecoder decoding = Objects.requireNonNull(decoder);
    long written = open.written();
    while (decoding.size() < limit) {
      ByteBuffer message = open.next();
      if (message != null) {
        decoding.decode(message);
      } else if (decoding.isOpen()) {
        // The rest of the transaction is in transit.
        open.awaitNext(REST_WAIT);
      } else if (decoding.size() > 0 || System.nanoTime() >= deadline) {
        decoding.seen(open.received());
        break;
      } else {
        open.awaitNext(Duration.ofNanos(deadline - System.nanoTime()));
      }
    }
    open.awaitVisible(decoding.takeTransactions());
    List<Change> changes = new ArrayList<>();
    boolean tablesChanged = false;
    for (Piece piece : decoding.takePieces()) {
      tablesChanged |= WindowReader.addNeeded(piece, columns, changes);
    }
    Position upTo = decoding.committed();
    next = upTo;
    boolean complete = decoding.isKnown() && !decoding.isOpen() && upTo.number() >= written;
    if (decoding.isKnown() && !decoding.isOpen()) {
      joinIfPossible(upTo);
    }
    return new Changes(changes, upTo, complete, tablesChanged);
  }

  private void joinIfPossible(Position position) {
    ChangeWindow window = receiver.enter(this, false);
    if (window != null
        && window.isOpen()
        && shared.join(window, position, position.number(), columns) == ChangeWindow.Place.HERE) {
      closeStream();
    }
  }

  @Override
  public void done(Position position) throws SourceUnavailableException {
    positions.advance(source.name(), reader, position);
    receiver.confirm();
    if (shared.isIn()
        && receiver.hasFound(ownSlot())
        && Long.compareUnsigned(position.number(), receiver.given()) >= 0) {
      dropOwnSlot();
    }
  }

  private void dropOwnSlot() throws SourceUnavailableException {
    try (LogStream asking = new LogStream(source)) {
      asking.drop(ownSlot());
      receiver.forget(ownSlot());
    } catch (SQLException e) {
      throw broken(e);
    } catch (InterruptedException e) {
      throw interrupted(e);
    }
  }

  @Override
  public void leave() throws SourceUnavailableException {
    close();
    positions.leave(source.name(), reader);
    dropOwnSlot();
    if (receiver.isUsed()) {
      receiver.confirm();
      return;
    }
    try (LogStream asking = new LogStream(source)) {
      if (!positions.isNeeded(source.name())) {
        asking.drop(receiver.slot());
        return;
      }
      Position least = positions.least(source.name(), asking.history(), receiver.given());
      if (least != null) {
        asking.advance(receiver.slot(), least.number());
      }
    } catch (SQLException e) {
      throw broken(e);
    } catch (InterruptedException e) {
      throw interrupted(e);
    }
  }

  private SourceUnavailableException broken(SQLException cause) {
    close();
    return source.unavailable(cause);
  }

  private static SourceUnavailableException interrupted(InterruptedException cause) {
    Thread.currentThread().interrupt();
    return new SourceUnavailableException("interrupted", cause);
  }

  private void closeStream() {
    LogStream open = stream;
    if (open != null) {
      open.close();
    }
    stream = null;
    decoder = null;
  }

  private void leavePlace() {
    closeStream();
    shared.leave();
    next = null;
  }

  @Override
  public void abort() {
    aborted = true;
    Stream.of(Optional.ofNullable(stream), Optional.ofNullable(starting))
        .flatMap(Optional::stream)
        .forEach(LogStream::abort);
  }

  @Override
  public void close() {
    leavePlace();
    receiver.leave(this);
  }
}
