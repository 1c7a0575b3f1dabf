package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What a scorecard came to with an edition.
 *
 * @param top how many results of each query count
 * @param total the means over all queries
 */
public record Scored(
    String scorecard, int version, int edition, int top, Score total, List<ScoredQuery> queries) {
  /** How good results are; from 0 to 1, and 1 is best. */
  public record Score(double ndcg, double reciprocalRank, double precision, double recall) {}

  /**
   * What a query came to.
   *
   * @param missing keys of records with a grade above 0 that are not among the first results
   * @param problem why it could not be asked, or null
   */
  public record ScoredQuery(
      String words, Score score, List<String> missing, @Nullable String problem) {}
}
