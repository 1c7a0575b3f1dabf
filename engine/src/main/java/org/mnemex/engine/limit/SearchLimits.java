package org.mnemex.engine.limit;

/**
 * What a search may cost.
 *
 * @param millis how long it may take
 * @param bytes how much memory it may take for sets of documents and counts, besides its results
 * @param terms how many terms a prefix, wildcard, typo or pattern may stand for, in one segment
 * @param partial whether to return what was found when the time is over, instead of an error
 */
public record SearchLimits(long millis, long bytes, int terms, boolean partial) {
  /** Practically none. */
  public static final SearchLimits NONE =
      new SearchLimits(Long.MAX_VALUE / 2_000_000, Long.MAX_VALUE / 2, 1_000_000, false);
}
