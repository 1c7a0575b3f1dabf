package org.mnemex.sync.feed;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Reached;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Asks for the next changes of a feed, and knows how true its documents are. Where the source says
 * at any moment how far a waiting reader is, a feed over which nothing changes sleeps, and is asked
 * for its truth only when somebody wants to know it.
 */
final class NextChanges {
  /** After so long without a change a feed wakes less often to look after other things. */
  private static final Duration QUIET = Duration.ofSeconds(10);

  private static final int QUIET_WAITS = 20;

  private final Source.Capture capture;
  private final Clock clock;
  private final Duration usualWait;
  private boolean complete;
  private boolean knowsMoment;
  private long lastChange = System.nanoTime();
  private long waits;

  /** The number of the current wait if visible documents include what was handed out; or 0. */
  private volatile long settledWait;

  private @Nullable Instant trueAt;

  /**
   * @param usualWait how long to wait for a change before doing other work
   */
  NextChanges(Source.Capture capture, Clock clock, Duration usualWait) {
    this.capture = capture;
    this.clock = clock;
    this.usualWait = usualWait;
  }

  /**
   * The next changes.
   *
   * @param settled whether visible documents include everything up to the position
   */
  Changes after(Position from, int limit, Duration wait, boolean settled)
      throws SourceUnavailableException, InterruptedException {
    complete = false;
    knowsMoment = false;
    Changes changes;
    waits++;
    settledWait = settled ? waits : 0;
    try {
      changes = capture.after(from, limit, wait);
    } finally {
      settledWait = 0;
    }
    complete = changes.complete();
    knowsMoment = changes.allAt() != null;
    if (!changes.list().isEmpty()) {
      lastChange = System.nanoTime();
    }
    return changes;
  }

  /** Whether the last changes were all there were. */
  boolean wereComplete() {
    return complete;
  }

  /** Nanoseconds since the last changes came. */
  long sinceChange() {
    return System.nanoTime() - lastChange;
  }

  /**
   * How long to wait for changes. Longer after a while without any, where it is known at any moment
   * that there are none.
   */
  Duration idleWait() {
    boolean quiet = sinceChange() > QUIET.toNanos();
    return quiet && knowsMoment ? usualWait.multipliedBy(QUIET_WAITS) : usualWait;
  }

  /**
   * Notes that documents include some changes.
   *
   * @param asked a moment before they were asked for
   */
  void areVisible(Changes changes, Instant asked) {
    Long allAt = changes.allAt();
    if (allAt != null) {
      areTrueAt(instant(allAt));
    } else if (changes.complete()) {
      areTrueAt(asked);
    }
  }

  /** A moment by {@link System#nanoTime}; earlier rather than later if this thread has to wait. */
  private Instant instant(long nanos) {
    Instant now = clock.instant();
    return now.minusNanos(System.nanoTime() - nanos).truncatedTo(ChronoUnit.MILLIS);
  }

  /** Notes that documents include everything up to a moment. Thread-safe. */
  synchronized void areTrueAt(@Nullable Instant moment) {
    if (moment != null && (trueAt == null || moment.isAfter(trueAt))) {
      trueAt = moment;
    }
  }

  /** The moment up to which documents include everything; null if unknown. Thread-safe. */
  @Nullable Instant trueAt() {
    Reached reached = reached();
    if (reached != null) {
      areTrueAt(instant(reached.allAt()));
    }
    synchronized (this) {
      return trueAt;
    }
  }

  /** How far the feed is if it waits and has applied everything; else null. Thread-safe. */
  @Nullable Reached reached() {
    long wait = settledWait;
    Reached reached = wait == 0 ? null : capture.reached();
    // Meanwhile the feed may have taken changes that are not visible yet.
    return settledWait == wait ? reached : null;
  }
}
