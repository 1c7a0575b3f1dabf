package org.mnemex.engine;

import java.util.List;
import java.util.Map;
import org.mnemex.engine.facet.FacetResult;

/**
 * What a search found.
 *
 * @param total how many documents match, exactly
 * @param hits the asked part of them, in order
 * @param facets the asked facets, in the order of the request
 * @param checkpoint what the result is true for
 */
public record SearchResult(
    long total, List<Hit> hits, List<FacetResult> facets, Checkpoint checkpoint) {

  /**
   * One result.
   *
   * @param score relevance; 0 if the query only filters
   * @param fields values of the shown fields by name
   * @param highlights escaped HTML with marks by field name; only fields with something to mark
   */
  public record Hit(
      String key,
      double score,
      Map<String, List<Object>> fields,
      Map<String, List<String>> highlights) {}
}
