package org.mnemex.engine.facet;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Query;

/**
 * From a value, included, to another, not included; null leaves a side open.
 *
 * @param text how it was written: {@code 30..100}
 */
public record Interval(String text, @Nullable Object from, @Nullable Object to) {
  /** The condition of chosen intervals on results. */
  static Query choice(String field, List<Interval> chosen) {
    return chosen.isEmpty()
        ? new Query.Everything()
        : new Query.AnyOf(
            chosen.stream()
                .<Query>map(one -> new Query.Range(field, one.from, true, one.to, false))
                .toList());
  }
}
