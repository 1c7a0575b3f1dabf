package org.mnemex.service.insight;

import java.util.HashMap;
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

  /** What is to be written. */
  record Batch(List<SearchedRow> searched, List<FacetRow> facets, List<OpenedRow> opened) {
    boolean isEmpty() {
      return searched.isEmpty() && facets.isEmpty() && opened.isEmpty();
    }
  }

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

  /** Adds what was taken and could not be written. */
  synchronized void addAll(Batch batch) {
    batch.searched().forEach(this::add);
    batch.facets().forEach(this::add);
    batch.opened().forEach(this::add);
  }

  /** Takes all that waits. */
  synchronized Batch take() {
    Batch all =
        new Batch(
            List.copyOf(searched.values()),
            List.copyOf(facets.values()),
            List.copyOf(opened.values()));
    searched.clear();
    facets.clear();
    opened.clear();
    return all;
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
