package org.mnemex.sync.feed;

import java.time.Duration;

/**
 * How much a feed does at a time, and how fast.
 *
 * @param portion records that a backfill reads at a time
 * @param recordsPerSecond how many it reads at most, 0 for no limit
 * @param batch changes that are applied together at most
 * @param idleWait how long to wait for a change before looking at what else is to be done
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

  /** No faster than so many records a second; 0 for no limit. */
  public static Pace of(int recordsPerSecond) {
    // Small portions, so that the pace is even.
    int portion =
        recordsPerSecond == 0 ? USUAL_PORTION : Math.clamp(recordsPerSecond / 4, 1, USUAL_PORTION);
    return new Pace(portion, recordsPerSecond, USUAL_BATCH, USUAL_WAIT);
  }
}
