package org.mnemex.engine.search;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetCounter;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.ShardSearch;

/**
 * A request made ready for an edition: its query planned, and what scores need looked up. Belongs
 * to one thread.
 *
 * @param cache sets of filters that came before; null: none
 * @param chosen terms that were chosen for all shards, of which this is one; null: it is all
 */
record PreparedSearch(
    Snapshot snapshot,
    SearchRequest request,
    @Nullable FilterCache cache,
    Budget budget,
    Statistics statistics,
    @Nullable Map<String, List<Fact.Term>> chosen,
    Planner planner,
    ScoreBasis scores,
    Order order) {

  /**
   * Makes a request ready.
   *
   * @param scored whether anybody looks at scores
   * @throws org.mnemex.engine.error.UnknownFieldException if it names a field that is not there
   * @throws org.mnemex.engine.error.QueryRefusedException if it asks a field for a use that it has
   *     not, or for too much
   */
  static PreparedSearch of(
      Snapshot snapshot, SearchRequest request, @Nullable FilterCache cache, boolean scored) {
    Budget budget = new Budget(request.limits(), System::nanoTime, snapshot.documents());
    SearchRequest.Basis given = given(request);
    Statistics statistics =
        scored && given == null
            ? new EditionStatistics(snapshot, budget)
            : EditionStatistics.withoutCounts(snapshot, budget, null);
    return of(snapshot, request, cache, budget, statistics, null, given);
  }

  /** Makes a request ready for a shard. */
  static PreparedSearch ofShard(
      Snapshot snapshot, ShardSearch search, @Nullable FilterCache cache) {
    SearchRequest request = search.request();
    Budget budget = new Budget(request.limits(), System::nanoTime, snapshot.documents());
    Statistics statistics = EditionStatistics.withoutCounts(snapshot, budget, search.chosen());
    return of(snapshot, request, cache, budget, statistics, search.chosen(), search.basis());
  }

  /**
   * Makes a request ready with other statistics, and asks them for all that it needs to know.
   *
   * @param snapshot may be without documents
   */
  static PreparedSearch ahead(
      Snapshot snapshot, SearchRequest request, Budget budget, Statistics statistics) {
    PreparedSearch search = of(snapshot, request, null, budget, statistics, null, given(request));
    PlanAhead.of(search);
    return search;
  }

  /** What scores of a continued search were computed with. */
  static SearchRequest.@Nullable Basis given(SearchRequest request) {
    return request.after() == null ? null : request.after().basis();
  }

  /** The same for another thread: with a budget of its own, and the same scores. */
  PreparedSearch another() {
    Budget other = budget.another();
    return of(
        snapshot,
        request,
        cache,
        other,
        EditionStatistics.withoutCounts(snapshot, other, chosen),
        chosen,
        scores.basis());
  }

  private static PreparedSearch of(
      Snapshot snapshot,
      SearchRequest request,
      @Nullable FilterCache cache,
      Budget budget,
      Statistics statistics,
      @Nullable Map<String, List<Fact.Term>> chosen,
      SearchRequest.@Nullable Basis given) {
    Schema schema = snapshot.schema();
    Planner planner = new Planner(schema, statistics);
    ScoreBasis scores = ScoreBasis.of(request, given, planner, statistics);
    scores.signals().forEach(signal -> Signals.check(signal, schema));
    Order order = Order.of(request.sorts(), schema, budget);
    return new PreparedSearch(
        snapshot, request, cache, budget, statistics, chosen, planner, scores, order);
  }

  Schema schema() {
    return snapshot.schema();
  }

  Plan plan() {
    return scores.plan();
  }

  List<Signal> signals() {
    return scores.signals();
  }

  /** How many results have to be known, in order, from the first one on. */
  int wanted() {
    return request.offset() + request.size();
  }

  /** The conditions of what is chosen in each facet. */
  List<Query> choices() {
    return request.facets().stream().map(FacetRequest::choice).toList();
  }

  /** Counters of nothing yet, one for each facet. */
  List<FacetCounter> counters() {
    return request.facets().stream()
        .map(facet -> FacetCounter.of(facet, schema(), budget))
        .toList();
  }

  /** Groups of nothing yet; null if none are asked for. */
  @Nullable Groups groups() {
    return request.group() == null ? null : Groups.of(request.group(), schema(), order, budget);
  }

  /** Whether all results have to be known, and not only the best. */
  boolean mustKnowAll() {
    return !request.facets().isEmpty()
        || request.group() != null
        || !order.isByRelevance()
        || request.countUpTo() == Long.MAX_VALUE
        || plan() instanceof Plan.Filter
        || request.leastScore() > 0;
  }

  /** Whether all results are found sooner than the best of them, as for some of many words. */
  boolean findsAllSooner() {
    return plan().wantsSome();
  }

  /**
   * Whether the more documents there are the longer it takes. What only filters is a matter of
   * counting bits, unless results are counted by value or in groups.
   */
  boolean growsWithDocuments() {
    return !request.facets().isEmpty()
        || request.group() != null
        || findsAllSooner()
        || mustKnowAll() && !(plan() instanceof Plan.Filter);
  }

  SegmentFilter filter(SegmentReader segment) {
    return new SegmentFilter(segment, planner, statistics, budget, cache);
  }
}
