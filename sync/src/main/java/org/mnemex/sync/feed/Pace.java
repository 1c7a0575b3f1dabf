package org.mnemex.sync.feed;

import java.time.Duration;

/**
 * Batch sizes and rates of a feed.
 *
 * @param portion records that a backfill reads at a time
 * @param recordsPerSecond maximum rate of a backfill, 0 for no limit
 * @param batch maximum number of changes applied together
 * @param idleWait how long to wait for a change before doing other work
 */
public record Pace(int portion, int recordsPerSecond, int batch, Duration idleWait) {
  private static final Duration USUAL_WAIT = Duration.ofMillis(250);
  private static final int USUAL_PORTION = 500;
  private static final int USUAL_BATCH = 5000;

  /** As fast as the source and this machine allow. */
  public static final Pace FREE = new Pace(USUAL_PORTION, 0, USUAL_BATCH, USUAL_WAIT);

  public Pace {
    if (portion < 1 || recordsPerSecond < 0 || batch < 1) {
      throw new IllegalArgumentException("a pace is not negative, portion and batch not empty");
    }
  }

  /** A pace with a maximum rate in records per second; 0 for no limit. */
  public static Pace of(int recordsPerSecond) {
    // Small portions make an even pace.
    int portion =
        recordsPerSecond == 0 ? USUAL_PORTION : Math.clamp(recordsPerSecond / 4, 1, USUAL_PORTION);
    return new Pace(portion, recordsPerSecond, USUAL_BATCH, USUAL_WAIT);
  }
}
