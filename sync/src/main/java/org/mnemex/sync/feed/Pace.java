package org.mnemex.sync.feed;

/**
 * How fast a backfill goes.
 *
 * @param portion records that are read at a time
 * @param recordsPerSecond how many to read at most, 0 for no limit
 */
public record Pace(int portion, int recordsPerSecond) {
  private static final int USUAL_PORTION = 500;

  /** As fast as the source and this machine allow. */
  public static final Pace FREE = new Pace(USUAL_PORTION, 0);

  public Pace {
    if (portion < 1 || recordsPerSecond < 0) {
      throw new IllegalArgumentException("a pace is not negative, and a portion not empty");
    }
  }

  /** No faster than so many records a second; 0 for no limit. */
  public static Pace of(int recordsPerSecond) {
    // Small portions, so that the pace is even.
    int portion =
        recordsPerSecond == 0 ? USUAL_PORTION : Math.clamp(recordsPerSecond / 4, 1, USUAL_PORTION);
    return new Pace(portion, recordsPerSecond);
  }
}
