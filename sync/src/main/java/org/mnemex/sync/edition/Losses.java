package org.mnemex.sync.edition;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;

/** Counts recent losses of an index's position. The cause of a loss may persist. */
final class Losses {
  /** Losses within this time are counted together. */
  private static final Duration COUNTED = Duration.ofHours(1);

  /** The number of losses that are repaired without a pause. */
  private static final int MADE_UP_AT_ONCE = 3;

  private static final Duration MAX_PAUSE = Duration.ofHours(1);
  private static final int MAX_DOUBLINGS = 6;

  private final Clock clock;
  private final Deque<Instant> losses = new ArrayDeque<>();

  Losses(Clock clock) {
    this.clock = clock;
  }

  /** Notes a loss; returns how long to wait before the repair. */
  Duration add() {
    Instant now = clock.instant();
    losses.removeIf(loss -> loss.isBefore(now.minus(COUNTED)));
    losses.add(now);
    int more = losses.size() - MADE_UP_AT_ONCE;
    if (more <= 0) {
      return Duration.ZERO;
    }
    Duration pause = Duration.ofMinutes(1L << Math.min(more, MAX_DOUBLINGS));
    return pause.compareTo(MAX_PAUSE) > 0 ? MAX_PAUSE : pause;
  }

  /** The number of losses within the last hour. */
  int count() {
    return losses.size();
  }
}
