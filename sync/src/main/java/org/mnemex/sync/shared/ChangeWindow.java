package org.mnemex.sync.shared;

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
 * The latest changes of a source, read once for all readers. One thread adds to it; each reader
 * takes from it through a {@link Cursor} of its own. Thread-safe.
 *
 * <p>How far the source was read is told by a number that grows, the <em>reach</em>. It need not be
 * that of the position: a transaction that waits for its second phase keeps the position back while
 * the reading goes on.
 *
 * <p>It is bounded. When it is full, the one who adds waits for the slowest reader, unless another
 * reader has been waiting for changes: then the oldest changes are dropped, and a reader that still
 * needs them has to read them elsewhere before it can {@link #join} again.
 */
public final class ChangeWindow {
  private static final long OPENING_MILLIS = 100;

  private final ReentrantLock lock = new ReentrantLock();

  /** The end has moved. */
  private final Condition moved = lock.newCondition();

  /** Something was taken. */
  private final Condition taken = lock.newCondition();

  private final WindowLimits limits;
  private final Set<Cursor> cursors = new HashSet<>();

  /** The positions of those who wait to join. */
  private final List<Position> awaited = new ArrayList<>();

  private final Sightings sightings = new Sightings();
  private final WatchedColumns watched = new WatchedColumns();
  private final MarkCheck marks;
  private final HeldPieces held = new HeldPieces();

  private @Nullable Position end;
  private long reached;
  private boolean more;
  private @Nullable Exception failure;

  /**
   * A window that is not open yet.
   *
   * @param marks looks whether those who join were in the same source before
   */
  public ChangeWindow(WindowLimits limits, MarkCheck marks) {
    this.limits = limits;
    this.marks = marks;
  }

  /** How joining went. */
  public enum Place {
    /** The reader goes on here. */
    HERE,
    /** The source has not been read up to the reader's position yet. */
    AHEAD,
    /** The reader needs something that is not here. */
    BEHIND
  }

  /**
   * Opens the window.
   *
   * @param position what comes after it is added
   * @param reach how far the source was read
   * @param columns those that are watched from there on, by table
   */
  public void open(Position position, long reach, Map<String, Set<String>> columns) {
    locked(
        () -> {
          held.begin(position.number());
          end = position;
          reached = reach;
          watched.add(columns, position.number());
          moved.signalAll();
        });
  }

  /** Notes that more columns are watched after the current end. */
  public void watch(Map<String, Set<String>> columns) {
    locked(() -> watched.add(columns, current().number()));
  }

  /**
   * Adds what was read next.
   *
   * @param upTo the position after the last complete transaction
   * @param reach how far the source was read
   * @param more whether it was known that more would follow, such as the rest of a transaction
   */
  public void add(List<Piece> pieces, Position upTo, long reach, boolean more) {
    locked(
        () -> {
          pieces.forEach(held::add);
          // A transaction without watched changes is no reason to wake anybody, unless it is known
          // now that nothing follows.
          if (pieces.stream().anyMatch(Piece::hasContent) || this.more && !more) {
            wakeAll();
          }
          reached = reach;
          this.more = more;
          if (!upTo.equals(end)) {
            end = upTo;
            moved.signalAll();
          }
        });
  }

  /**
   * Notes how far the source could be read.
   *
   * @param reach there was nothing beyond it
   * @param nanos a moment before that was asked for, by {@link System#nanoTime}
   */
  public void sight(long reach, long nanos) {
    locked(() -> sightings.add(reach, nanos));
  }

  /** Ends the window with an exception, which is thrown to all its readers. */
  public void fail(Exception why) {
    locked(
        () -> {
          failure = why;
          wakeAll();
          moved.signalAll();
        });
  }

  public boolean hasFailed() {
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
  public boolean isOpen() {
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
  public @Nullable Exception awaitOpen(BooleanSupplier givenUp) throws InterruptedException {
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
  public @Nullable Position awaitEnd(long number, Duration wait) throws InterruptedException {
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
  public boolean makeRoom(Duration wait) throws InterruptedException {
    long left = wait.toNanos();
    lock.lockInterruptibly();
    try {
      while (true) {
        dropWhatMayGo();
        if (hasRoom() || left <= 0) {
          return hasRoom();
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
    while (!hasRoom()) {
      Held oldest = held.oldest();
      if (oldest == null || isNeeded(oldest) && !isAnyoneHungry()) {
        return;
      }
      held.drop(oldest);
      cursors.removeIf(cursor -> cursor.isLeftBehind(oldest));
    }
  }

  private boolean hasRoom() {
    return held.size() < limits.room();
  }

  private boolean isNeeded(Held piece) {
    Piece content = piece.piece;
    return cursors.stream().anyMatch(cursor -> cursor.at.number < piece.number)
        || content != null && awaited.stream().anyMatch(position -> !content.isIn(position));
  }

  private boolean isAnyoneHungry() {
    long now = System.nanoTime();
    return cursors.stream()
        .anyMatch(
            c ->
                c.hungry && held.endsAt(c.at) && now - c.hungrySince > limits.patience().toNanos());
  }

  /**
   * Lets a reader go on here, if all is here that it needs.
   *
   * @param position everything up to here was taken before
   * @param reach how far the source was read for that, if it is known; else 0
   * @param columns the columns that it needs, by table
   * @param joined receives the cursor
   * @param wait how long to wait for the source to be read up to the position; what comes after it
   *     is held meanwhile
   * @throws PositionLostException if the source is another one than that read up to the position
   */
  public Place join(
      Position position,
      long reach,
      Map<String, Set<String>> columns,
      Consumer<Cursor> joined,
      Duration wait)
      throws InterruptedException {
    long left = wait.toNanos();
    lock.lockInterruptibly();
    try {
      awaited.add(position);
      Place place = join(position, reach, columns, joined);
      while (place == Place.AHEAD && failure == null && left > 0) {
        left = moved.awaitNanos(left);
        place = join(position, reach, columns, joined);
      }
      return place;
    } finally {
      awaited.remove(position);
      lock.unlock();
    }
  }

  /** The same without waiting. */
  public Place join(
      Position position, long reach, Map<String, Set<String>> columns, Consumer<Cursor> joined) {
    lock.lock();
    try {
      Position known = current();
      long number = position.number();
      if (!held.reachBackTo(position) || !watched.cover(columns, number)) {
        return Place.BEHIND;
      }
      if (!known.history().equals(position.history())) {
        // It will find out why.
        return Place.BEHIND;
      }
      if (Long.compareUnsigned(number, known.number()) > 0) {
        return sightings.endBefore(number) ? Place.BEHIND : Place.AHEAD;
      }
      Cursor cursor = new Cursor(lock.newCondition(), held.skip(position, marks), position, reach);
      cursors.add(cursor);
      joined.accept(cursor);
      return Place.HERE;
    } finally {
      lock.unlock();
    }
  }

  /** Ends a reader's place. */
  public void leave(Cursor cursor) {
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
  public @Nullable Taken take(Cursor cursor, int limit, Duration wait) throws Exception {
    lock.lockInterruptibly();
    try {
      cursor.waits = true;
      return take(cursor, limit, wait, false);
    } finally {
      cursor.waits = false;
      lock.unlock();
    }
  }

  /**
   * The same, of a reader that has not applied yet what it took last: waits only while it is known
   * that more will follow.
   */
  public @Nullable Taken takeMore(Cursor cursor, int limit, Duration wait) throws Exception {
    return take(cursor, limit, wait, true);
  }

  private @Nullable Taken take(Cursor cursor, int limit, Duration wait, boolean rest)
      throws Exception {
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
        if (left <= 0 || cursor.woken || rest && !more) {
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
  public @Nullable Reached reached(Cursor cursor) {
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
      Long allAt = more ? null : sightings.lastAt(reached);
      return allAt == null ? null : new Reached(current(), allAt);
    } finally {
      lock.unlock();
    }
  }

  /** Ends the current wait of a reader, or the next. */
  public void wake(Cursor cursor) {
    locked(
        () -> {
          cursor.woken = true;
          cursor.more.signalAll();
        });
  }

  private Taken takeNow(Cursor cursor, int limit) {
    List<Piece> pieces = new ArrayList<>();
    int count = 0;
    while (cursor.at.next != null && count < limit) {
      Held next = cursor.at.next;
      Piece piece = next.piece;
      if (piece == null) {
        throw new IllegalStateException("a held piece is missing");
      }
      int from = cursor.offset;
      int to = Math.min(piece.changes().size(), from + limit - count);
      boolean whole = to == piece.changes().size();
      pieces.add(piece.part(from, to));
      count += to - from;
      if (whole) {
        cursor.at = next;
        cursor.offset = 0;
        Position after = piece.after();
        if (after != null) {
          cursor.advance(after, piece.reach());
        }
      } else {
        cursor.offset = to;
      }
    }
    boolean all = cursor.at.next == null && !more;
    if (all) {
      cursor.advance(current(), reached);
    }
    return new Taken(
        pieces,
        cursor.position,
        more && cursor.at.next == null && hasRoom(),
        all && sightings.endAt(cursor.reach),
        sightings.lastAt(cursor.reach));
  }
}
