package org.mnemex.engine;

import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.query.Query;

/**
 * A search.
 *
 * @param query what to match and to score
 * @param filter what results must match besides; never scores
 * @param sort order of results; null: by relevance
 * @param offset how many results to pass over, from 0
 * @param size how many results to return, from 0
 * @param facets facets to count; what is chosen in them narrows the results
 * @param show stored fields to return
 * @param highlights fields to highlight
 */
public record SearchRequest(
    Query query,
    Query filter,
    @Nullable Sort sort,
    int offset,
    int size,
    List<FacetRequest> facets,
    Set<String> show,
    List<HighlightRequest> highlights) {

  /** Deepest result that may be asked for by number. */
  public static final int DEEPEST = 10_000;

  public SearchRequest {
    facets = List.copyOf(facets);
    show = java.util.Collections.unmodifiableSet(new java.util.LinkedHashSet<>(show));
    highlights = List.copyOf(highlights);
    if (offset < 0 || size < 0) {
      throw new QueryRefusedException("offset and size count from 0");
    }
    if ((long) offset + size > DEEPEST) {
      throw new QueryRefusedException(
          "results beyond number "
              + DEEPEST
              + " cannot be asked for by page; narrow the search instead");
    }
  }

  /** The first results of a query, by relevance, with the given fields. */
  public static SearchRequest of(Query query, int size, String... show) {
    return new SearchRequest(
        query, new Query.Everything(), null, 0, size, List.of(), Set.of(show), List.of());
  }

  /**
   * A sort by a field's values; documents without one come last, equal ones by relevance, then key.
   */
  public record Sort(String field, boolean descending) {}
}
