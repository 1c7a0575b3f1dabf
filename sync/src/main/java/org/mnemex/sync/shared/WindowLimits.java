package org.mnemex.sync.shared;

import java.time.Duration;

/**
 * What limits a {@link ChangeWindow}.
 *
 * @param room the most that is held, in changes and pieces
 * @param patience how long a reader waits for the sake of slower ones
 */
public record WindowLimits(int room, Duration patience) {
  private static final int USUAL_ROOM = 50_000;
  private static final Duration USUAL_PATIENCE = Duration.ofSeconds(2);

  /** The limits outside of tests. */
  public static final WindowLimits USUAL = new WindowLimits(USUAL_ROOM, USUAL_PATIENCE);
}
