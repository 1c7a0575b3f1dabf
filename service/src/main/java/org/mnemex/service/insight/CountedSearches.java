package org.mnemex.service.insight;

import java.util.List;
import org.mnemex.service.store.InsightMapper.FacetRow;
import org.mnemex.service.store.InsightMapper.OpenedRow;
import org.mnemex.service.store.InsightMapper.SearchedRow;

/**
 * What was counted for some time.
 *
 * @param searched searches, by endpoint, hour and words
 * @param facets uses of facets, by endpoint and day
 * @param opened opened results, by endpoint, day and words
 */
public record CountedSearches(
    List<SearchedRow> searched, List<FacetRow> facets, List<OpenedRow> opened) {
  public CountedSearches {
    searched = List.copyOf(searched);
    facets = List.copyOf(facets);
    opened = List.copyOf(opened);
  }

  boolean isEmpty() {
    return searched.isEmpty() && facets.isEmpty() && opened.isEmpty();
  }
}
