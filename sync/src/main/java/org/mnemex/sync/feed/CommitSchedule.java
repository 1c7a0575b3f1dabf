package org.mnemex.sync.feed;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;

/** Decides when a feed commits. */
final class CommitSchedule {
  private static final int MAX_RECORDS = 20_000;
  private static final Duration INTERVAL = Duration.ofSeconds(1);
  private static final Duration FILL_INTERVAL = Duration.ofSeconds(10);
  private static final Duration IDLE_INTERVAL = Duration.ofSeconds(30);

  private final Clock clock;
  private Instant last;
  private long uncommitted;

  CommitSchedule(Clock clock) {
    this.clock = clock;
    this.last = clock.instant();
  }

  /** Notes written records. */
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

  /** Whether to commit changes: at once if there is nothing else to do. */
  boolean isDue(boolean idle) {
    return uncommitted > 0
        && (idle || uncommitted >= MAX_RECORDS || since().compareTo(INTERVAL) >= 0);
  }

  /**
   * Whether to commit a fill. Rarely, as each commit writes what is pending, and small segments are
   * merged again and again; often enough that a crash repeats little and the source can trim its
   * log.
   */
  boolean isFillDue() {
    return uncommitted > 0 && since().compareTo(FILL_INTERVAL) >= 0;
  }

  /** Whether to commit a position after which nothing was written. */
  boolean isIdleDue() {
    return since().compareTo(IDLE_INTERVAL) >= 0;
  }

  private Duration since() {
    return Duration.between(last, clock.instant());
  }
}
