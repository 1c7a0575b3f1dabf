package org.mnemex.service.definition;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A published search over one index. Maps keep the order of the definition.
 *
 * @param search weight by field name; empty: all searchable fields with their own weights
 * @param allWords whether all words must be found, or any
 * @param only filter that no caller can lift, or null
 * @param sorts orders by the name that callers use
 * @param show fields that results show
 */
public record EndpointDefinition(
    String name,
    String index,
    Map<String, Double> search,
    boolean allWords,
    @Nullable String only,
    Map<String, Facet> facets,
    Map<String, SortOrder> sorts,
    List<String> show,
    Map<String, Highlight> highlights,
    int pageSize,
    int pageMost) {

  /**
   * A facet.
   *
   * @param ranges as they are written, {@code 30..100}; empty: by value
   * @param byValue whether values are in their own order, or by count
   * @param limit how many values are shown
   * @param labels what people read, by value
   */
  public record Facet(
      String name,
      String field,
      String title,
      List<String> ranges,
      boolean byValue,
      int limit,
      Map<String, String> labels) {}

  /**
   * An order of results.
   *
   * @param field null for relevance
   */
  public record SortOrder(@Nullable String field, boolean descending) {}

  /**
   * @param fragments 0: the whole value
   */
  public record Highlight(int fragments, int words) {}
}
