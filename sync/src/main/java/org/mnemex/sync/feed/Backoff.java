package org.mnemex.sync.feed;

import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;

/** Exponential backoff up to a limit. */
final class Backoff {
  private long millis;

  /**
   * The next pause in milliseconds, with 25% jitter, so that the feeds of a source do not reconnect
   * all at once.
   *
   * @param first the first pause in milliseconds
   * @param longest the longest one
   */
  long next(long first, long longest) {
    millis = millis == 0 ? first : Math.min(2 * millis, longest);
    return millis * 3 / 4 + ThreadLocalRandom.current().nextLong(millis / 2 + 1);
  }

  /** Resets the pause after a success. */
  void reset() {
    millis = 0;
  }

  /** The end of a pause, on the clock of {@link System#nanoTime}. */
  static long end(long pauseMillis) {
    return System.nanoTime() + TimeUnit.MILLISECONDS.toNanos(pauseMillis);
  }
}
