package org.mnemex.engine.facet;

import java.util.HashMap;
import java.util.Map;

/** How often each spelling of a value was counted. */
final class Spellings {
  private final Map<String, Long> counts = new HashMap<>();

  void add(String spelling, long count) {
    counts.merge(spelling, count, Long::sum);
  }

  void add(Spellings other) {
    other.counts.forEach(this::add);
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
