package org.mnemex.engine.suggest;

import java.util.List;
import java.util.Set;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.search.Searched;

/** Completes what is typed with the values of an exact field that documents under a filter have. */
public final class ValueCompletions {
  /** Values looked up for each one wanted, as the filter may hide some. */
  private static final int LOOKED_UP = 4;

  private ValueCompletions() {}

  /**
   * The values that fit, the best first: those of most documents among equals.
   *
   * @param field an exact field that can be filtered by
   * @throws QueryRefusedException if it is no such field
   */
  public static List<Phrases.Found> of(
      Searched searched, Field field, String typed, int most, Query filter, SearchLimits limits) {
    if (field.type() != FieldType.EXACT || !field.hasTerms() || field.isChild()) {
      throw new QueryRefusedException(
          "field '%s' cannot complete words: it is not an exact field with the use 'filter'"
              .formatted(field.name()));
    }
    return searched.values(field, typed, LOOKED_UP * most).stream()
        .filter(
            one -> {
              Query value = new Query.OneOf(field.name(), List.of(one.phrase().text()));
              return exists(searched, value, filter, limits);
            })
        .limit(most)
        .toList();
  }

  private static boolean exists(Searched searched, Query value, Query filter, SearchLimits limits) {
    SearchRequest one =
        new SearchRequest(value, filter, null, 0, 0, List.of(), Set.of(), List.of());
    return searched.any(one.countingUpTo(1).within(limits), 1).total() > 0;
  }
}
