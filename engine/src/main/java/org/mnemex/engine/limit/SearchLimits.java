package org.mnemex.engine.limit;

/**
 * Limits of a search.
 *
 * @param millis its time limit
 * @param bytes its memory limit for sets of documents and counts, without results
 * @param terms the maximum number of terms of a prefix, wildcard, typo or pattern, for each segment
 * @param partial whether to return partial results at the time limit instead of an error
 */
public record SearchLimits(long millis, long bytes, int terms, boolean partial) {
  /** Practically none. */
  public static final SearchLimits NONE =
      new SearchLimits(Long.MAX_VALUE / 2_000_000, Long.MAX_VALUE / 2, 1_000_000, false);
}
