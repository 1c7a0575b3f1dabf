package org.mnemex.service.definition;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Queries with the records that people want to find by them.
 *
 * @param endpoint where they are asked
 * @param top how many results count
 * @param least an edition with a mean nDCG below is not promoted by itself; 0 for any
 * @param mostFall nor one whose mean nDCG is so much below the live edition's; null for any
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
   * @param grades by key of a record: 0 useless, the more the better
   */
  public record GradedQuery(String words, Map<String, Integer> grades) {
    public GradedQuery {
      grades = Map.copyOf(grades);
    }
  }
}
