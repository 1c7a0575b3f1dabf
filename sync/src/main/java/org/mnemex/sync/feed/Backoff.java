package org.mnemex.sync.feed;

import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;

/** Growing pauses between tries: each is twice as long as the one before it, up to a limit. */
final class Backoff {
  private long millis;

  /**
   * The next pause, in milliseconds, give or take a quarter: many feeds of one source should not
   * come back in the same moment.
   *
   * @param first the first pause in milliseconds
   * @param longest the longest one
   */
  long next(long first, long longest) {
    millis = millis == 0 ? first : Math.min(2 * millis, longest);
    return millis * 3 / 4 + ThreadLocalRandom.current().nextLong(millis / 2 + 1);
  }

  /** It worked: the next pause is a first one again. */
  void reset() {
    millis = 0;
  }

  /** The moment, on the clock of {@link System#nanoTime}, at which a pause ends. */
  static long end(long pauseMillis) {
    return System.nanoTime() + TimeUnit.MILLISECONDS.toNanos(pauseMillis);
  }
}
