package org.mnemex.service.insight;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.function.BinaryOperator;
import org.mnemex.service.store.InsightMapper.FacetRow;
import org.mnemex.service.store.InsightMapper.OpenedRow;
import org.mnemex.service.store.InsightMapper.SearchedRow;

/** Counts in memory that wait to be written. */
final class WaitingCounts {
  /** Of more different ones at a time, the rest is not counted. */
  private static final int MOST = 10_000;

  private final Map<List<String>, SearchedRow> searched = new HashMap<>();
  private final Map<List<String>, FacetRow> facets = new HashMap<>();
  private final Map<List<String>, OpenedRow> opened = new HashMap<>();

  synchronized void add(SearchedRow row) {
    add(searched, List.of(row.endpoint(), row.hour(), row.words()), row, WaitingCounts::sum);
  }

  synchronized void add(FacetRow row) {
    add(
        facets,
        List.of(row.endpoint(), row.day(), row.facet()),
        row,
        (a, b) -> new FacetRow(a.endpoint(), a.day(), a.facet(), a.searches() + b.searches()));
  }

  synchronized void add(OpenedRow row) {
    add(
        opened,
        List.of(row.endpoint(), row.day(), row.words(), row.recordKey()),
        row,
        (a, b) ->
            new OpenedRow(
                a.endpoint(),
                a.day(),
                a.words(),
                a.recordKey(),
                a.opens() + b.opens(),
                a.weight() + b.weight()));
  }

  private static <R> void add(
      Map<List<String>, R> rows, List<String> key, R row, BinaryOperator<R> sum) {
    if (rows.size() < MOST || rows.containsKey(key)) {
      rows.merge(key, row, sum);
    }
  }

  /** Adds what was counted elsewhere, or taken and not written. */
  synchronized void addAll(CountedSearches batch) {
    batch.searched().forEach(this::add);
    batch.facets().forEach(this::add);
    batch.opened().forEach(this::add);
  }

  /** Takes all that waits. */
  CountedSearches take() {
    return take(MOST);
  }

  /**
   * Takes a part of the waiting counts.
   *
   * @param most how many rows of each kind
   */
  synchronized CountedSearches take(int most) {
    return new CountedSearches(take(searched, most), take(facets, most), take(opened, most));
  }

  private static <R> List<R> take(Map<List<String>, R> rows, int most) {
    List<R> taken = new ArrayList<>();
    Iterator<R> all = rows.values().iterator();
    while (all.hasNext() && taken.size() < most) {
      taken.add(all.next());
      all.remove();
    }
    return taken;
  }

  private static SearchedRow sum(SearchedRow a, SearchedRow b) {
    return new SearchedRow(
        a.endpoint(),
        a.hour(),
        a.words(),
        a.searches() + b.searches(),
        a.withoutResults() + b.withoutResults(),
        a.fewResults() + b.fewResults(),
        a.results() + b.results(),
        a.millis() + b.millis(),
        Math.max(a.slowest(), b.slowest()),
        a.relaxed() + b.relaxed(),
        a.corrected() + b.corrected(),
        a.curated() + b.curated(),
        a.laterPages() + b.laterPages(),
        a.opened() + b.opened(),
        a.opens() + b.opens(),
        a.positions() + b.positions());
  }
}
