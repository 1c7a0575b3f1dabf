package org.mnemex.service.definition;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Queries with the records that they should find.
 *
 * @param name name of the scorecard
 * @param endpoint the endpoint that is asked
 * @param top how many results count
 * @param least an edition with a lower mean nDCG waits for approval; 0 for no limit
 * @param mostFall an edition whose mean nDCG is lower than the live one's by more waits for
 *     approval; null for no limit
 * @param queries the queries
 */
public record ScorecardDefinition(
    String name,
    String endpoint,
    int top,
    double least,
    @Nullable Double mostFall,
    List<GradedQuery> queries) {
  public ScorecardDefinition {
    queries = List.copyOf(queries);
  }

  /**
   * A query.
   *
   * @param words the query
   * @param grades grade by key of a record: 0 is useless, higher is better
   */
  public record GradedQuery(String words, Map<String, Integer> grades) {
    public GradedQuery {
      grades = Map.copyOf(grades);
    }
  }
}
