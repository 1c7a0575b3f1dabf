package org.mnemex.service.search;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The results of two editions side by side.
 *
 * @param left number of the one edition
 * @param right number of the other
 * @param top how many results of each query were compared
 * @param changedShare the share of results, 0 to 1, that the right one has and the left one has not
 * @param toZero queries that find nothing any more
 * @param fromZero queries that found nothing before
 */
public record ComparedEditions(
    String endpoint,
    int left,
    int right,
    int top,
    double changedShare,
    List<String> toZero,
    List<String> fromZero,
    List<ComparedQuery> queries) {
  /**
   * A query.
   *
   * @param changed how many of the first results came or went
   * @param problem why it could not be asked, or null
   */
  public record ComparedQuery(
      String words,
      long leftTotal,
      long rightTotal,
      int changed,
      boolean sameOrder,
      List<ComparedResult> left,
      List<ComparedResult> right,
      @Nullable String problem) {}

  /**
   * A result.
   *
   * @param other its place in the other list, from 1; null if it is not there
   * @param label its title
   */
  public record ComparedResult(String key, String label, double score, @Nullable Integer other) {}
}
