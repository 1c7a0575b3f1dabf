package org.mnemex.service.search;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The results of two editions side by side.
 *
 * @param endpoint the endpoint that was asked
 * @param left number of the left edition
 * @param right number of the right edition
 * @param top how many results of each query were compared
 * @param changedShare the share of results, 0 to 1, that only the right edition has
 * @param toZero queries that no longer find anything
 * @param fromZero queries that found nothing before
 * @param queries query by query, the most changed first
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
  /** The result in a sentence. */
  String told() {
    return "%.1f%% of the first %d results of %,d queries differ"
        .formatted(100 * changedShare, top, queries.size());
  }

  /**
   * A query.
   *
   * @param words the query
   * @param leftTotal number of results in the left edition
   * @param rightTotal number of results in the right edition
   * @param changed how many of the first results appeared or disappeared
   * @param sameOrder whether the first results are the same in the same order
   * @param left first results of the left edition
   * @param right first results of the right edition
   * @param problem why the query could not be asked, or null
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
   * @param key key of the record
   * @param label title of the result
   * @param score its score
   * @param other its rank in the other list, from 1; null if it is not there
   */
  public record ComparedResult(String key, String label, double score, @Nullable Integer other) {}
}
