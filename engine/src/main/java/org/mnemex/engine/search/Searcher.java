package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.facet.FacetCounter;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.read.StoredCodec;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Schema;

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
 */
public final class Searcher {
  /** From one in so many, documents are most of a segment. */
  private static final int MOST = 16;

  private final Snapshot snapshot;
  private final Schema schema;
  private final SearchRequest request;
  private final Budget budget;
  private final EditionStatistics statistics;
  private final Planner planner;
  private final Plan plan;
  private final List<Signal> ranking;
  private final SearchRequest.Basis basis;
  private final Order order;
  private final @Nullable FilterCache cache;
  private final List<FacetCounter> counters = new ArrayList<>();
  private final List<Query> choices = new ArrayList<>();
  private final List<Order.Entry> best = new ArrayList<>();
  private final PriorityQueue<Double> bestScores = new PriorityQueue<>();

  /** By facet, what was counted in each segment; of those that are split only. */
  private final Map<Integer, List<Counted>> splits = new HashMap<>();

  private final @Nullable Groups groups;
  private final int wanted;
  private long total;
  private boolean exact = true;

  /** What was counted of a segment. */
  private record Counted(SegmentFilter filter, DocBits docs) {}

  private Searcher(
      Snapshot snapshot, SearchRequest request, @Nullable FilterCache cache, boolean scored) {
    this.snapshot = snapshot;
    this.schema = snapshot.schema();
    this.request = request;
    this.cache = cache;
    this.budget = new Budget(request.limits(), System::nanoTime, snapshot.documents());
    this.statistics =
        scored
            ? new EditionStatistics(snapshot, budget)
            : EditionStatistics.withoutCounts(snapshot, budget);
    this.planner = new Planner(schema, statistics);
    ScoreBasis scores = ScoreBasis.of(request, planner, statistics);
    this.plan = scores.plan();
    this.ranking = scores.signals();
    this.basis = scores.basis();
    this.order = Order.of(request.sorts(), schema, budget);
    this.wanted = request.offset() + request.size();
    this.groups =
        request.group() == null ? null : Groups.of(request.group(), schema, order, budget);
    ranking.forEach(signal -> Signals.check(signal, schema));
    for (FacetRequest facet : request.facets()) {
      counters.add(FacetCounter.of(facet, schema, budget));
      choices.add(facet.choice());
    }
  }

  /**
   * Runs {@code request} on {@code snapshot}.
   *
   * @param cache sets of filters that came before; null: none
   * @throws org.mnemex.engine.error.UnknownFieldException if it names a field that is not there
   * @throws QueryRefusedException if it asks a field for a use that it has not, or for too much
   * @throws org.mnemex.engine.error.SearchTimeoutException if it takes longer than it may
   */
  public static SearchResult search(
      Snapshot snapshot, SearchRequest request, @Nullable FilterCache cache) {
    return new Searcher(snapshot, request, cache, true).run(Long.MAX_VALUE);
  }

  /**
   * The best of some results: after so many were found, no more are looked for. What must know all
   * results, such as an order by a field, does.
   *
   * @param most how many results are enough, from 1
   */
  public static SearchResult some(
      Snapshot snapshot, SearchRequest request, long most, @Nullable FilterCache cache) {
    return new Searcher(snapshot, request, cache, true).run(most);
  }

  /**
   * Some results, no matter how well they fit.
   *
   * @param most how many results are enough, from 1
   */
  public static SearchResult any(
      Snapshot snapshot, SearchRequest request, long most, @Nullable FilterCache cache) {
    return new Searcher(snapshot, request, cache, false).run(most);
  }

  private SearchResult run(long most) {
    for (SegmentView view : snapshot.segments()) {
      if (!budget.isOver() && total < most) {
        searchSegment(view, most - total);
      }
    }
    return new SearchResult(
        total,
        exact && !budget.isOver(),
        groups == null ? 0 : groups.size(),
        groups == null ? single() : grouped(groups),
        facets(),
        snapshot.checkpoint(),
        budget.isOver());
  }

  private List<SearchResult.Hit> single() {
    return hits(page(order.first(best, wanted)));
  }

  private List<SearchResult.Hit> grouped(Groups all) {
    List<Groups.Group> page = page(all.first(request.after(), wanted));
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
    return first.subList(Math.min(request.offset(), first.size()), first.size());
  }

  private List<FacetResult> facets() {
    List<FacetResult> results = new ArrayList<>();
    for (int i = 0; i < counters.size(); i++) {
      FacetResult result = counters.get(i).result();
      results.add(
          request.facets().get(i) instanceof SplitFacet split
              ? split(split, result, splits.getOrDefault(i, List.of()))
              : result);
    }
    return results;
  }

  /** Counts the inner facet for each value of the outer one. */
  private FacetResult split(SplitFacet split, FacetResult outer, List<Counted> segments) {
    List<FacetResult.Value> values = new ArrayList<>();
    for (FacetResult.Value value : outer.values()) {
      Query choice = split.values().choosing(List.of(value.value())).choice();
      FacetCounter inner = FacetCounter.of(split.inner(), schema, budget);
      for (Counted counted : segments) {
        DocBits docs = counted.docs().copy();
        docs.and(counted.filter().bits(choice));
        inner.count(counted.filter().segment(), docs);
        budget.mayContinue(docs.count());
      }
      values.add(
          new FacetResult.Value(value.value(), value.count(), value.chosen(), inner.result()));
    }
    return new FacetResult(outer.name(), values, outer.more());
  }

  private void searchSegment(SegmentView view, long most) {
    SegmentReader segment = view.reader();
    SegmentFilter filter = new SegmentFilter(segment, planner, statistics, budget, cache);
    DocBits eligible = view.live();
    if (!(request.filter() instanceof Query.Everything)) {
      eligible.and(filter.recurring(request.filter()));
    }
    List<@Nullable DocBits> chosen = new ArrayList<>();
    boolean any = false;
    for (Query choice : choices) {
      boolean all = choice instanceof Query.Everything;
      chosen.add(all ? null : filter.recurring(choice));
      any |= !all;
    }
    DocBits wantedDocs = eligible;
    if (any) {
      wantedDocs = eligible.copy();
      andAllBut(wantedDocs, chosen, -1);
    }
    Signals signals = new Signals(ranking, segment, filter::recurring);
    SegmentTop top = new SegmentTop(wanted, order, segment, request.after(), floor());
    boolean mustKnowAll =
        !counters.isEmpty()
            || groups != null
            || !order.isByRelevance()
            || request.countUpTo() == Long.MAX_VALUE
            || plan instanceof Plan.Filter
            || request.leastScore() > 0;
    if (!any && offerFirst(filter, eligible, signals, top)) {
      exact = false;
    } else if (mustKnowAll) {
      DocBits matched = matched(filter, eligible, signals);
      for (int i = 0; i < counters.size(); i++) {
        DocBits counted = matched;
        if (any) {
          counted = matched.copy();
          andAllBut(counted, chosen, request.facets().get(i).isTogether() ? -1 : i);
        }
        if (request.facets().get(i) instanceof SplitFacet) {
          splits.computeIfAbsent(i, facet -> new ArrayList<>()).add(new Counted(filter, counted));
        }
        counters.get(i).count(segment, counted);
        budget.mayContinue(counted.count());
      }
      DocBits results = matched;
      if (any) {
        results = matched.copy();
        results.and(wantedDocs);
      }
      int found = results.count();
      total += found;
      rank(filter, segment, results, found, signals, top);
    } else {
      TopSearch search =
          new TopSearch(
              wantedDocs,
              top,
              signals,
              budget,
              Math.max(0, request.countUpTo() - total),
              most,
              request.countUpTo() == 0);
      search.run(() -> filter.matchers().matcher(plan));
      total += search.counted();
      exact &= !search.pruned();
    }
    for (Order.Entry entry : top.entries()) {
      best.add(entry);
      bestScores.add(entry.score());
      if (bestScores.size() > wanted) {
        bestScores.remove();
      }
    }
  }

  /** Offers the first results in the order of a field, if nobody asks how many there are. */
  private boolean offerFirst(
      SegmentFilter filter, DocBits eligible, Signals signals, SegmentTop top) {
    boolean isFree =
        counters.isEmpty()
            && groups == null
            && request.countUpTo() == 0
            && request.after() == null
            && signals.isEmpty();
    if (!isFree
        || !(plan instanceof Plan.Filter only && only.query() instanceof Query.Holds held)) {
      return false;
    }
    int[] documents = order.documents(filter.segment());
    return documents != null
        && new FirstDocuments(documents, eligible, filter, budget).offer(held.query(), top, wanted);
  }

  /** What the best of the segments so far leave to be beaten. */
  private double floor() {
    boolean full = wanted > 0 && bestScores.size() == wanted;
    return Math.max(
        request.leastScore() > 0 ? request.leastScore() : Double.NEGATIVE_INFINITY,
        full ? bestScores.element() : Double.NEGATIVE_INFINITY);
  }

  private static void andAllBut(DocBits docs, List<@Nullable DocBits> chosen, int but) {
    for (int i = 0; i < chosen.size(); i++) {
      DocBits bits = chosen.get(i);
      if (i != but && bits != null) {
        docs.and(bits);
      }
    }
  }

  /** The eligible documents that match and score enough. */
  private DocBits matched(SegmentFilter filter, DocBits eligible, Signals signals) {
    if (request.leastScore() <= 0) {
      if (plan instanceof Plan.Filter only && only.query() instanceof Query.Everything) {
        return eligible;
      }
      DocBits bits = eligible.copy();
      bits.and(filter.bits(plan));
      return bits;
    }
    DocBits bits = new DocBits(eligible.size());
    Matcher matcher = filter.matchers().matcher(plan);
    int looked = 0;
    for (int doc = matcher.advance(0); doc != Matcher.END; ) {
      if (eligible.get(doc) && score(matcher, signals) >= request.leastScore()) {
        bits.set(doc);
      }
      if (++looked == Budget.STEP) {
        looked = 0;
        if (!budget.mayContinue(Budget.STEP)) {
          break;
        }
      }
      doc = matcher.advance(doc + 1);
    }
    return bits;
  }

  private double score(Matcher matcher, Signals signals) {
    double relevance = relevance(matcher);
    return signals.isEmpty() ? relevance : relevance * signals.factor(matcher.doc());
  }

  private double relevance(Matcher matcher) {
    return plan instanceof Plan.Filter && !ranking.isEmpty() ? 1 : matcher.score();
  }

  private void rank(
      SegmentFilter filter,
      SegmentReader segment,
      DocBits results,
      int found,
      Signals signals,
      SegmentTop top) {
    if (groups != null) {
      Groups.InSegment here = groups.new InSegment(segment);
      offerAll(filter, results, signals, here::offer);
      return;
    }
    if (wanted == 0 || found == 0) {
      return;
    }
    // Where most documents are results, walking through all of them in order finds the first soon.
    boolean same = plan instanceof Plan.Filter && signals.isEmpty();
    boolean most = same && (long) found * MOST >= segment.documents();
    if (most && order.isByRelevance()) {
      top.offerByKey(results, budget);
      return;
    }
    int[] documents = most ? order.documents(segment) : null;
    if (documents != null) {
      top.offerFirst(documents, results, budget);
    } else if (plan instanceof Plan.Filter || !order.isByRelevance()) {
      offerAll(filter, results, signals, top::offer);
    } else {
      new TopSearch(results, top, signals, budget, 0, Long.MAX_VALUE, false)
          .run(() -> filter.matchers().matcher(plan));
    }
  }

  /** Takes results, in any order. */
  private interface Sink {
    void offer(int doc, double score);
  }

  private void offerAll(SegmentFilter filter, DocBits results, Signals signals, Sink top) {
    if (plan instanceof Plan.Filter) {
      for (int doc = results.next(0); doc >= 0 && budget.step(); doc = results.next(doc + 1)) {
        top.offer(doc, signals.isEmpty() ? 0 : signals.factor(doc));
      }
      return;
    }
    Matcher matcher = filter.matchers().matcher(plan);
    for (int doc = results.next(0); doc >= 0 && budget.step(); doc = results.next(doc + 1)) {
      if (matcher.advance(doc) == doc) {
        top.offer(doc, score(matcher, signals));
      }
    }
  }

  private List<SearchResult.Hit> hits(List<Order.Entry> entries) {
    List<Query> asked = new ArrayList<>(choices);
    asked.add(request.filter());
    FieldMarkers markers = new FieldMarkers(request, plan, schema, asked, budget);
    MatchedRows rows =
        new MatchedRows(
            asked,
            request.show(),
            segment -> new SegmentFilter(segment, planner, statistics, budget, cache));
    Set<String> needed = new HashSet<>(request.show());
    needed.addAll(markers.fields());
    StoredCodec.Decoder decoder = new StoredCodec.Decoder(schema, needed);
    List<SearchResult.Hit> hits = new ArrayList<>();
    for (Order.Entry entry : entries) {
      Map<String, List<Object>> shown = new LinkedHashMap<>();
      Map<String, List<String>> marked = Map.of();
      if (!needed.isEmpty()) {
        Map<String, List<Object>> stored = entry.segment().stored(entry.doc(), decoder);
        for (String name : request.show()) {
          List<Object> values = stored.get(name);
          if (values != null) {
            shown.put(name, values);
          }
        }
        marked = markers.marked(stored);
      }
      hits.add(
          new SearchResult.Hit(
              new String(entry.key(), StandardCharsets.UTF_8),
              entry.score(),
              shown,
              marked,
              rows.of(entry.segment(), entry.doc()),
              order.cursor(entry, basis),
              null));
    }
    return hits;
  }
}
