package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.List;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;

/**
 * Runs a request on a snapshot.
 *
 * <h2>Facets of which several values can be chosen</h2>
 *
 * <p>Let M be the documents that match query and filter, and F<sub>i</sub> those with what is
 * chosen in facet i. Results are M ∩ F<sub>1</sub> ∩ … ∩ F<sub>n</sub>; facet i is counted over M
 * and all F<sub>j</sub> but its own, so that its other values show what choosing them as well would
 * add.
 *
 * <h2>Matching and ranking apart</h2>
 *
 * <p>Where everything that matches has to be known (for facets, a sort, an exact total), the set is
 * made without scores, which is cheap. The best results by relevance are found by {@link
 * TopSearch}, which scores few documents.
 *
 * <h2>Parts at the same time</h2>
 *
 * <p>Where all results have to be known, segments are divided among those who {@linkplain Helpers
 * help}. The best results by relevance are found sooner one segment after another, as each leaves
 * less to be beaten in the next.
 */
public final class Searcher {
  private final PreparedSearch search;
  private final PartSearch found;

  private Searcher(PreparedSearch search, PartSearch found) {
    this.search = search;
    this.found = found;
  }

  /**
   * Runs {@code request} on {@code snapshot}.
   *
   * @param cache sets of filters that came before; null: none
   * @param helpers who take on parts of it
   * @throws org.mnemex.engine.error.UnknownFieldException if it names a field that is not there
   * @throws org.mnemex.engine.error.QueryRefusedException if it asks a field for a use that it has
   *     not, or for too much
   * @throws org.mnemex.engine.error.SearchTimeoutException if it takes longer than it may
   */
  public static SearchResult search(
      Snapshot snapshot, SearchRequest request, @Nullable FilterCache cache, Helpers helpers) {
    PreparedSearch search = PreparedSearch.of(snapshot, request, cache, true);
    return new Searcher(search, all(search, helpers)).result();
  }

  /** The same without help. */
  public static SearchResult search(
      Snapshot snapshot, SearchRequest request, @Nullable FilterCache cache) {
    return search(snapshot, request, cache, Helpers.NONE);
  }

  /**
   * The best of some results: after so many were found, no more are looked for. What must know all
   * results, such as an order by a field, does.
   *
   * @param most how many results are enough, from 1
   */
  public static SearchResult some(
      Snapshot snapshot, SearchRequest request, long most, @Nullable FilterCache cache) {
    return run(PreparedSearch.of(snapshot, request, cache, true), most);
  }

  /**
   * Some results, no matter how well they fit.
   *
   * @param most how many results are enough, from 1
   */
  public static SearchResult any(
      Snapshot snapshot, SearchRequest request, long most, @Nullable FilterCache cache) {
    return run(PreparedSearch.of(snapshot, request, cache, false), most);
  }

  private static SearchResult run(PreparedSearch search, long most) {
    return new Searcher(search, some(search, most)).result();
  }

  /** Searches until there are enough results. */
  static PartSearch some(PreparedSearch search, long most) {
    return new PartSearch(search).run(whole(search), most);
  }

  private static List<Slice> whole(PreparedSearch search) {
    return search.snapshot().segments().stream().map(Slice::whole).toList();
  }

  /** Searches everything, in parts if others help. */
  static PartSearch all(PreparedSearch search, Helpers helpers) {
    PartSearch own = new PartSearch(search);
    if (!search.growsWithDocuments()) {
      return own.run(whole(search), Long.MAX_VALUE);
    }
    List<PartSearch> parts =
        helpers.share(
            search.plan().expected(search.snapshot().documents()),
            count -> works(search, own, Slice.divided(search.snapshot().segments(), count)));
    parts.subList(1, parts.size()).forEach(own::add);
    return own;
  }

  private static List<Supplier<PartSearch>> works(
      PreparedSearch search, PartSearch own, List<List<Slice>> parts) {
    List<Supplier<PartSearch>> works = new ArrayList<>();
    works.add(() -> own.run(parts.getFirst(), Long.MAX_VALUE));
    for (List<Slice> part : parts.subList(1, parts.size())) {
      works.add(() -> new PartSearch(search.another()).run(part, Long.MAX_VALUE));
    }
    return works;
  }

  private SearchResult result() {
    Groups groups = found.groups();
    return new SearchResult(
        found.total(),
        found.isExact(),
        groups == null ? 0 : groups.size(),
        groups == null ? hits(page(found.first())) : grouped(groups),
        facets(),
        search.snapshot().checkpoint(),
        search.budget().isOver());
  }

  private List<SearchResult.Hit> grouped(Groups all) {
    List<Groups.Group> page = page(all.first(search.request().after(), search.wanted()));
    List<SearchResult.Hit> flat =
        hits(page.stream().flatMap(group -> group.best().stream()).toList());
    List<SearchResult.Hit> hits = new ArrayList<>();
    int at = 0;
    for (Groups.Group group : page) {
      int end = at + group.best().size();
      hits.add(
          flat.get(at)
              .in(
                  new SearchResult.Group(
                      all.value(group), group.total(), flat.subList(at + 1, end))));
      at = end;
    }
    return hits;
  }

  private <T> List<T> page(List<T> first) {
    return first.subList(Math.min(search.request().offset(), first.size()), first.size());
  }

  private List<FacetResult> facets() {
    List<FacetResult> results = new ArrayList<>();
    for (int i = 0; i < found.counters().size(); i++) {
      FacetResult result = found.counters().get(i).result();
      results.add(
          search.request().facets().get(i) instanceof SplitFacet split
              ? split(i, split, result)
              : result);
    }
    return results;
  }

  /** Counts the inner facet for each value of the outer one. */
  private FacetResult split(int facet, SplitFacet split, FacetResult outer) {
    List<FacetResult.Value> values = new ArrayList<>();
    for (FacetResult.Value value : outer.values()) {
      FacetResult inner = found.within(facet, split, value.value()).result();
      values.add(new FacetResult.Value(value.value(), value.count(), value.chosen(), inner));
    }
    return new FacetResult(outer.name(), values, outer.more());
  }

  private List<SearchResult.Hit> hits(List<Order.Entry> entries) {
    return ShownHits.of(search, entries);
  }
}
