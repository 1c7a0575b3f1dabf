package org.mnemex.sync.score;

import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Map;

/**
 * Measures of the quality of a query's first results, from 0 to 1; higher is better.
 *
 * @param ndcg normalised discounted cumulative gain with the gain 2^grade − 1 and the discount
 *     log2(place + 1): Järvelin and Kekäläinen, "Cumulated gain-based evaluation of IR techniques",
 *     2002, in the form of Burges et al., "Learning to rank using gradient descent", 2005
 * @param reciprocalRank 1 divided by the place of the first record with a grade above 0; 0 if there
 *     is none
 * @param precision the share of the first results that have a grade above 0, of as many as asked
 * @param recall the share of the records with a grade above 0 that are among the first results
 */
public record Score(double ndcg, double reciprocalRank, double precision, double recall) {
  /** The highest grade; higher ones would drown the others. */
  public static final int HIGHEST_GRADE = 10;

  /**
   * The score of a list of results.
   *
   * @param keys of the results, best first
   * @param grades by key, 0 to {@link #HIGHEST_GRADE}; a record without one counts as 0
   * @param top how many results count, at least 1
   * @throws IllegalArgumentException if no record has a grade above 0: there is nothing to find
   */
  public static Score of(List<String> keys, Map<String, Integer> grades, int top) {
    List<Integer> best =
        grades.values().stream().filter(g -> g > 0).sorted(Comparator.reverseOrder()).toList();
    if (best.isEmpty()) {
      throw new IllegalArgumentException("no record has a grade above 0");
    }
    double gain = 0;
    double ideal = 0;
    int relevant = 0;
    double reciprocal = 0;
    for (int i = 0; i < top; i++) {
      double discount = Math.log(2) / Math.log(i + 2.0);
      int grade = i < keys.size() ? grades.getOrDefault(keys.get(i), 0) : 0;
      gain += (Math.pow(2, grade) - 1) * discount;
      ideal += i < best.size() ? (Math.pow(2, best.get(i)) - 1) * discount : 0;
      if (grade > 0) {
        relevant++;
        reciprocal = reciprocal == 0 ? 1.0 / (i + 1) : reciprocal;
      }
    }
    return new Score(
        gain / ideal, reciprocal, (double) relevant / top, (double) relevant / best.size());
  }

  /**
   * The mean of several scores.
   *
   * @throws IllegalArgumentException if there are none
   */
  public static Score mean(Collection<Score> scores) {
    if (scores.isEmpty()) {
      throw new IllegalArgumentException("no scores");
    }
    double count = scores.size();
    return new Score(
        scores.stream().mapToDouble(Score::ndcg).sum() / count,
        scores.stream().mapToDouble(Score::reciprocalRank).sum() / count,
        scores.stream().mapToDouble(Score::precision).sum() / count,
        scores.stream().mapToDouble(Score::recall).sum() / count);
  }
}
