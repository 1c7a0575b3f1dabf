package org.mnemex.engine.facet;

import java.util.HashMap;
import java.util.Map;

/** How often each spelling of a value was counted. */
final class Spellings {
  private final Map<String, Long> counts = new HashMap<>();

  void add(String spelling, long count) {
    counts.merge(spelling, count, Long::sum);
  }

  void add(FacetPart.Ways ways) {
    ways.spellings().forEach(this::add);
  }

  /**
   * @param count how many documents or rows have the value
   */
  FacetPart.Ways ways(long count) {
    return new FacetPart.Ways(count, counts);
  }

  /** The most frequent one; of equals, the first in the order of their characters. */
  String shown() {
    return counts.entrySet().stream()
        .max(
            Map.Entry.<String, Long>comparingByValue()
                .thenComparing(Map.Entry.<String, Long>comparingByKey().reversed()))
        .orElseThrow()
        .getKey();
  }
}
