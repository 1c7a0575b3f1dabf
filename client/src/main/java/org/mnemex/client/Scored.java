package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The score of an edition.
 *
 * @param top how many results of each query count
 * @param total the means over all queries
 */
public record Scored(
    String scorecard, int version, int edition, int top, Score total, List<ScoredQuery> queries) {
  /** Measures of quality, from 0 to 1; higher is better. */
  public record Score(double ndcg, double reciprocalRank, double precision, double recall) {}

  /**
   * The score of a query.
   *
   * @param missing keys of records with a grade above 0 that are not among the first results
   * @param problem why it could not be asked, or null
   */
  public record ScoredQuery(
      String words, Score score, List<String> missing, @Nullable String problem) {}
}
