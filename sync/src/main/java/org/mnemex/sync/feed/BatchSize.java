package org.mnemex.sync.feed;

import java.time.Duration;

/**
 * How many changes are applied together: the more, the less each costs, and the later the first of
 * them is seen. While there is a backlog the number grows until a batch takes as long as changes
 * may be late, and falls when batches take longer.
 */
final class BatchSize {
  /** So many times the usual number at most, and that part of it at least. */
  private static final int RANGE = 10;

  private final int least;
  private final int most;
  private int size;

  BatchSize(int usual) {
    this.size = usual;
    this.least = Math.max(1, usual / RANGE);
    this.most = usual * RANGE;
  }

  /** The most changes of the next batch. */
  int next() {
    return size;
  }

  /**
   * Notes a batch.
   *
   * @param changes how many there were
   * @param tookNanos from when they were at hand until they were visible
   * @param freshest how late changes may be
   */
  void applied(int changes, long tookNanos, Duration freshest) {
    if (tookNanos > freshest.toNanos()) {
      size = Math.max(least, size / 2);
    } else if (changes >= size && tookNanos <= freshest.toNanos() / 2) {
      size = Math.min(most, size * 2);
    }
  }
}
