package org.mnemex.service.condition;

import java.time.Duration;

/**
 * What one look at something found.
 *
 * @param condition what was looked for
 * @param about the index, source or endpoint
 * @param level whether it holds
 * @param patience how long it must hold until it is told
 * @param text one sentence that says what is wrong and what to do; not used unless it holds
 */
record Look(Condition condition, String about, Level level, Duration patience, String text) {
  /** Whether it holds. Between both limits, what was so stays so. */
  enum Level {
    HOLDS,
    BETWEEN,
    GOOD
  }

  /** A value must be better than its limit by this share to end its condition. */
  private static final double MARGIN = 0.2;

  /** A condition that either holds or does not. */
  static Look whether(
      boolean holds, Condition condition, String about, Duration patience, String text) {
    return new Look(condition, about, holds ? Level.HOLDS : Level.GOOD, patience, text);
  }

  /**
   * A value that should not be above a limit.
   *
   * @param limit 0 if it does not matter
   */
  static Look above(double value, double limit, Condition condition, String about, String text) {
    Level level =
        limit > 0 && value > limit
            ? Level.HOLDS
            : limit > 0 && value > limit * (1 - MARGIN) ? Level.BETWEEN : Level.GOOD;
    return new Look(condition, about, level, Duration.ZERO, text);
  }

  /**
   * A value that should not be below a limit.
   *
   * @param limit 0 if it does not matter
   */
  static Look below(double value, double limit, Condition condition, String about, String text) {
    Level level =
        value < limit ? Level.HOLDS : value < limit * (1 + MARGIN) ? Level.BETWEEN : Level.GOOD;
    return new Look(condition, about, level, Duration.ZERO, text);
  }
}
