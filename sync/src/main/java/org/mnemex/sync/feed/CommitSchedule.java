package org.mnemex.sync.feed;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;

/** When a feed commits what it has written. */
final class CommitSchedule {
  private static final int MAX_RECORDS = 20_000;
  private static final Duration INTERVAL = Duration.ofSeconds(1);
  private static final Duration IDLE_INTERVAL = Duration.ofSeconds(10);

  private final Clock clock;
  private Instant last;
  private long uncommitted;

  CommitSchedule(Clock clock) {
    this.clock = clock;
    this.last = clock.instant();
  }

  /** Notes records that were written. */
  void wrote(long records) {
    uncommitted += records;
  }

  /** Notes a commit. */
  void committed() {
    uncommitted = 0;
    last = clock.instant();
  }

  boolean hasUncommitted() {
    return uncommitted > 0;
  }

  /** Whether changes should be committed: at once if nothing else is to be done. */
  boolean isDue(boolean idle) {
    return uncommitted > 0
        && (idle || uncommitted >= MAX_RECORDS || since().compareTo(INTERVAL) >= 0);
  }

  /**
   * Whether a fill should be committed. By time as well: a slow fill should not begin again after a
   * crash, nor the source keep its log.
   */
  boolean isFillDue() {
    return uncommitted >= MAX_RECORDS || uncommitted > 0 && isIdleDue();
  }

  /** Whether a position should be committed behind which nothing was written. */
  boolean isIdleDue() {
    return since().compareTo(IDLE_INTERVAL) >= 0;
  }

  private Duration since() {
    return Duration.between(last, clock.instant());
  }
}
