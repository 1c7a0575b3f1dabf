package org.mnemex.sync.postgres;

import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CancellationException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Reached;

/**
 * The latest part of a log, read once for all readers. One thread adds to it; each reader takes
 * from it through a {@link Cursor} of its own. Thread-safe.
 *
 * <p>It is bounded. When it is full, the one who adds waits for the slowest reader, unless another
 * reader has been waiting for changes: then the oldest changes are dropped, and a reader that still
 * needs them has to read them elsewhere before it can {@link #join} again.
 */
final class LogWindow {
  private static final long OPENING_MILLIS = 100;

  private final ReentrantLock lock = new ReentrantLock();

  /** The end has moved. */
  private final Condition moved = lock.newCondition();

  /** Something was taken. */
  private final Condition taken = lock.newCondition();

  private final WindowLimits limits;
  private final Set<Cursor> cursors = new HashSet<>();
  private final Sightings sightings = new Sightings();
  private final List<Watching> watching = new ArrayList<>();

  /** The last piece that is no longer held. */
  private Held before = new Held(null, 0);

  private Held last = before;
  private long size;

  /** Where the log was joined: a reader before it has missed something. */
  private long floor;

  private @Nullable Position end;
  private boolean open;
  private @Nullable Exception failure;

  LogWindow(WindowLimits limits) {
    this.limits = limits;
  }

  /** A piece in a list. */
  private static final class Held {
    private final @Nullable LogPiece piece;
    private final long number;
    private @Nullable Held next;

    Held(@Nullable LogPiece piece, long number) {
      this.piece = piece;
      this.number = number;
    }

    int size() {
      return piece == null ? 0 : piece.changes().size() + 1;
    }
  }

  /**
   * Columns that are watched.
   *
   * @param since after which position
   */
  private record Watching(Map<String, Set<String>> columns, long since) {}

  /** The place of a reader. Used by its thread, with the window's lock. */
  static final class Cursor {
    /** There may be something to take. Its own, as each wait on one ends with a look at all. */
    private final Condition more;

    private Held at;
    private int offset;
    private Position position;
    private long hungrySince;
    private boolean hungry;

    /** Whether its reader has applied everything it took, and waits for more. */
    private boolean waits;

    /** Whether its reader is not to wait. */
    private boolean woken;

    /** Whether it has taken something since the last sighting of the log's end. */
    private boolean unsighted;

    /** Whether there was a sighting since then, which the reader does not know of. */
    private boolean sighted;

    private Cursor(Condition more, Held at, Position position) {
      this.more = more;
      this.at = at;
      this.position = position;
    }

    /** Whether it still needs a dropped piece; it then keeps none of them in memory. */
    private boolean isLeftBehind(Held dropped) {
      boolean left = at.number < dropped.number;
      if (left) {
        at = new Held(null, at.number);
        more.signalAll();
      }
      return left;
    }

    private void sight() {
      sighted |= unsighted;
      unsighted = false;
    }
  }

  /**
   * What a reader takes.
   *
   * @param pieces in order; the changes of the first may lack those taken before
   * @param upTo the position after them
   * @param complete whether that was all there was at the last sighting of the log's end
   * @param allAt a moment, by {@link System#nanoTime}, at which everything up to {@code upTo} was
   *     all there was; null if unknown
   */
  record Taken(List<LogPiece> pieces, Position upTo, boolean complete, @Nullable Long allAt) {
    /** Whether it ends within a transaction. */
    boolean isCut() {
      return !pieces.isEmpty() && pieces.getLast().after() == null;
    }
  }

  /** How joining went. */
  enum Place {
    /** The reader goes on here. */
    HERE,
    /** The log has not been read up to the reader's position yet. */
    AHEAD,
    /** The reader needs something that is not here. */
    BEHIND
  }

  /** Opens the window at a position, with the columns watched from there. */
  void open(Position position, Map<String, Set<String>> columns) {
    locked(
        () -> {
          floor = position.number();
          end = position;
          watching.add(new Watching(columns, position.number()));
          moved.signalAll();
        });
  }

  /** Notes that more columns are watched after the current end. */
  void watch(Map<String, Set<String>> columns) {
    locked(() -> watching.add(new Watching(columns, current().number())));
  }

  /** Adds what was read next, and the position after the last complete transaction. */
  void add(List<LogPiece> pieces, Position upTo) {
    locked(
        () -> {
          for (LogPiece piece : pieces) {
            Held held = new Held(piece, last.number + 1);
            last.next = held;
            last = held;
            size += held.size();
            open = piece.after() == null;
          }
          // A transaction without watched changes is no reason to wake anybody.
          if (pieces.stream().anyMatch(LogPiece::hasContent)) {
            wakeAll();
          }
          if (!upTo.equals(end)) {
            end = upTo;
            moved.signalAll();
          }
        });
  }

  /** Notes the end of the log, as {@link Sightings#add}. */
  void sight(long written, long nanos) {
    locked(
        () -> {
          sightings.add(written, nanos);
          cursors.forEach(Cursor::sight);
          cursors.stream().filter(cursor -> cursor.sighted).forEach(c -> c.more.signalAll());
        });
  }

  /** Ends the window with an exception, which is thrown to all its readers. */
  void fail(Exception why) {
    locked(
        () -> {
          failure = why;
          wakeAll();
          moved.signalAll();
        });
  }

  boolean hasFailed() {
    lock.lock();
    try {
      return failure != null;
    } finally {
      lock.unlock();
    }
  }

  private void wakeAll() {
    cursors.forEach(cursor -> cursor.more.signalAll());
  }

  private void locked(Runnable change) {
    lock.lock();
    try {
      change.run();
    } finally {
      lock.unlock();
    }
  }

  private Position current() {
    Position known = end;
    if (known == null) {
      throw new IllegalStateException("the window is not open yet");
    }
    return known;
  }

  /** Whether readers can join. */
  boolean isOpen() {
    lock.lock();
    try {
      return end != null && failure == null;
    } finally {
      lock.unlock();
    }
  }

  /**
   * Waits until the window is open or has failed.
   *
   * @param givenUp whether to wait no longer
   * @return why it has failed; null if it is open
   */
  @Nullable Exception awaitOpen(BooleanSupplier givenUp) throws InterruptedException {
    lock.lockInterruptibly();
    try {
      while (end == null && failure == null) {
        if (givenUp.getAsBoolean()) {
          return new CancellationException("given up");
        }
        var _ = moved.await(OPENING_MILLIS, TimeUnit.MILLISECONDS);
      }
      return failure;
    } finally {
      lock.unlock();
    }
  }

  /** The end, once it has reached a number; null if that takes too long. */
  @Nullable Position awaitEnd(long number, Duration wait) throws InterruptedException {
    long left = wait.toNanos();
    lock.lockInterruptibly();
    try {
      while (failure == null && left > 0) {
        Position known = end;
        if (known != null && Long.compareUnsigned(known.number(), number) >= 0) {
          return known;
        }
        left = moved.awaitNanos(left);
      }
      return null;
    } finally {
      lock.unlock();
    }
  }

  /**
   * Makes room for more; waits for readers to take something.
   *
   * @return whether there is room
   */
  boolean makeRoom(Duration wait) throws InterruptedException {
    long left = wait.toNanos();
    lock.lockInterruptibly();
    try {
      while (true) {
        dropWhatMayGo();
        if (size < limits.room() || left <= 0) {
          return size < limits.room();
        }
        // Readers were not woken for pieces without content.
        wakeAll();
        left = taken.awaitNanos(left);
      }
    } finally {
      lock.unlock();
    }
  }

  private void dropWhatMayGo() {
    while (size >= limits.room()) {
      Held oldest = before.next;
      if (oldest == null || isNeeded(oldest) && !isAnyoneHungry()) {
        return;
      }
      drop(oldest);
    }
  }

  private boolean isNeeded(Held piece) {
    return cursors.stream().anyMatch(cursor -> cursor.at.number < piece.number);
  }

  private boolean isAnyoneHungry() {
    long now = System.nanoTime();
    return cursors.stream()
        .anyMatch(
            c -> c.hungry && c.at == last && now - c.hungrySince > limits.patience().toNanos());
  }

  private void drop(Held oldest) {
    LogPiece piece = oldest.piece;
    if (piece != null) {
      Position after = piece.after();
      // Nobody can join in the middle of a transaction.
      floor = after == null ? piece.commit() + 1 : after.number();
    }
    size -= oldest.size();
    before = oldest;
    cursors.removeIf(cursor -> cursor.isLeftBehind(oldest));
  }

  /**
   * Lets a reader go on here, if all is here that it needs.
   *
   * @param position everything up to here was taken before
   * @param columns the columns that it needs, by table
   * @param joined receives the cursor
   * @throws PositionLostException if the log is another one than that read up to the position
   */
  Place join(Position position, Map<String, Set<String>> columns, Consumer<Cursor> joined) {
    lock.lock();
    try {
      Position known = current();
      long number = position.number();
      if (Long.compareUnsigned(number, floor) < 0 || !isWatched(columns, number)) {
        return Place.BEHIND;
      }
      if (!known.history().equals(position.history())) {
        // It will find out why.
        return Place.BEHIND;
      }
      if (Long.compareUnsigned(number, known.number()) > 0) {
        return sightings.endBefore(number) ? Place.BEHIND : Place.AHEAD;
      }
      Cursor cursor = new Cursor(lock.newCondition(), skip(position), position);
      cursors.add(cursor);
      joined.accept(cursor);
      return Place.HERE;
    } finally {
      lock.unlock();
    }
  }

  private boolean isWatched(Map<String, Set<String>> columns, long number) {
    return columns.entrySet().stream()
        .allMatch(
            table ->
                table.getValue().stream()
                    .allMatch(
                        column ->
                            watching.stream()
                                .anyMatch(
                                    some ->
                                        Long.compareUnsigned(some.since, number) <= 0
                                            && some.columns
                                                .getOrDefault(table.getKey(), Set.of())
                                                .contains(column))));
  }

  /** The last piece that a position includes; the transaction of its mark must be among them. */
  private Held skip(Position position) {
    CommitMark mark = position.mark().isEmpty() ? null : CommitMark.of(position);
    boolean marked = mark == null || Long.compareUnsigned(mark.end(), floor) <= 0;
    Held at = before;
    for (Held next = at.next; next != null; next = next.next) {
      LogPiece piece = next.piece;
      if (piece == null || !piece.isBefore(position)) {
        break;
      }
      Position after = piece.after();
      if (mark != null && after != null) {
        CommitMark found = CommitMark.of(after);
        int order = Long.compareUnsigned(found.end(), mark.end());
        if (order > 0 || order == 0 && !found.equals(mark)) {
          throw LogDecoder.anotherLog(floor, position);
        }
        marked |= order == 0;
      }
      at = next;
    }
    if (!marked) {
      throw LogDecoder.anotherLog(floor, position);
    }
    return at;
  }

  /** Ends a reader's place. */
  void leave(Cursor cursor) {
    locked(
        () -> {
          cursors.remove(cursor);
          taken.signalAll();
        });
  }

  /**
   * Takes what comes next; waits if there is nothing. The reader has applied what it took before.
   *
   * @param limit the maximum number of changes
   * @return null if it is no longer here
   * @throws Exception why the window has failed
   */
  @Nullable Taken take(Cursor cursor, int limit, Duration wait) throws Exception {
    lock.lockInterruptibly();
    try {
      cursor.waits = true;
      return takeMore(cursor, limit, wait);
    } finally {
      cursor.waits = false;
      lock.unlock();
    }
  }

  /** The same, of a reader that has not applied yet what it took last. */
  @Nullable Taken takeMore(Cursor cursor, int limit, Duration wait) throws Exception {
    long left = wait.toNanos();
    lock.lockInterruptibly();
    try {
      while (true) {
        if (!cursors.contains(cursor)) {
          Exception why = failure;
          if (why != null) {
            throw why;
          }
          return null;
        }
        if (failure != null) {
          throw failure;
        }
        if (cursor.at.next != null) {
          cursor.hungry = false;
          Taken result = takeNow(cursor, limit);
          taken.signalAll();
          return result;
        }
        if (!cursor.hungry) {
          cursor.hungry = true;
          cursor.hungrySince = System.nanoTime();
        }
        // A reader that has taken something learns soon how true it is.
        if (left <= 0 || cursor.woken || cursor.sighted && !open) {
          cursor.woken = false;
          return takeNow(cursor, limit);
        }
        left = cursor.more.awaitNanos(left);
      }
    } finally {
      lock.unlock();
    }
  }

  /** How far a waiting reader is; null if it does not wait, or there is something to take. */
  @Nullable Reached reached(Cursor cursor) {
    lock.lock();
    try {
      if (!cursor.waits || failure != null) {
        return null;
      }
      for (Held next = cursor.at.next; next != null; next = cursor.at.next) {
        if (next.piece == null || next.piece.hasContent()) {
          return null;
        }
        cursor.at = next;
      }
      Position upTo = current();
      Long allAt = open ? null : sightings.lastAt(upTo.number());
      return allAt == null ? null : new Reached(upTo, allAt);
    } finally {
      lock.unlock();
    }
  }

  /** Ends the current wait of a reader, or the next. */
  void wake(Cursor cursor) {
    locked(
        () -> {
          cursor.woken = true;
          cursor.more.signalAll();
        });
  }

  private Taken takeNow(Cursor cursor, int limit) {
    List<LogPiece> pieces = new ArrayList<>();
    Position upTo = cursor.position;
    int count = 0;
    while (cursor.at.next != null && count < limit) {
      Held held = cursor.at.next;
      LogPiece piece = held.piece;
      if (piece == null) {
        throw new IllegalStateException("a held piece is missing");
      }
      int from = cursor.offset;
      int to = Math.min(piece.changes().size(), from + limit - count);
      boolean whole = to == piece.changes().size();
      pieces.add(
          new LogPiece(
              piece.changes().subList(from, to),
              piece.commit(),
              whole ? piece.after() : null,
              from == 0 ? piece.redefined() : Set.of(),
              from == 0 ? piece.emptied() : Set.of()));
      count += to - from;
      if (whole) {
        cursor.at = held;
        cursor.offset = 0;
        upTo = piece.after() == null ? upTo : piece.after();
      } else {
        cursor.offset = to;
      }
    }
    boolean all = cursor.at.next == null && !open;
    if (all) {
      upTo = current();
    }
    cursor.position = upTo;
    cursor.sighted = false;
    cursor.unsighted |= !pieces.isEmpty();
    return new Taken(
        pieces, upTo, all && sightings.endAt(upTo.number()), sightings.lastAt(upTo.number()));
  }
}
