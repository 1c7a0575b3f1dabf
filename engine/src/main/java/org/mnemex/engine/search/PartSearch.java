package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetCounter;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.shard.ShardResult;

/**
 * Matches, counts and ranks documents of some segments. Parts of a search, each of documents of its
 * own, can run at the same time and be {@linkplain #add added up} then.
 */
final class PartSearch {
  /** From one in so many, documents are most of a segment. */
  private static final int MOST = 16;

  /** A shard shows so many results at once, before it is known whether they are among the first. */
  private static final int MAX_SHOWN = 40;

  private final PreparedSearch search;
  private final SearchRequest request;
  private final Budget budget;
  private final Plan plan;
  private final Order order;
  private final int wanted;
  private final List<Query> choices;
  private final List<FacetCounter> counters;
  private final @Nullable Groups groups;
  private final List<Order.Entry> best = new ArrayList<>();
  private final PriorityQueue<Double> bestScores = new PriorityQueue<>();

  /** By facet, what was counted in each segment; of those that are split only. */
  private final Map<Integer, List<Counted>> splits = new HashMap<>();

  private long total;
  private boolean exact = true;

  /** What was counted of a segment. */
  private record Counted(SegmentFilter filter, DocBits docs) {}

  PartSearch(PreparedSearch search) {
    this.search = search;
    this.request = search.request();
    this.budget = search.budget();
    this.plan = search.plan();
    this.order = search.order();
    this.wanted = search.wanted();
    this.choices = search.choices();
    this.counters = search.counters();
    this.groups = search.groups();
  }

  /**
   * Searches slices of segments one after another.
   *
   * @param most how many results are enough, from 1
   */
  PartSearch run(List<Slice> slices, long most) {
    for (Slice slice : slices) {
      if (!budget.isOver() && total < most) {
        searchSlice(slice, most - total);
      }
    }
    return this;
  }

  /**
   * Adds what was found among other documents.
   *
   * @param other part of the same search, and not to be used any more
   */
  void add(PartSearch other) {
    budget.add(other.budget);
    total += other.total;
    exact &= other.exact;
    best.addAll(other.best);
    for (int i = 0; i < counters.size(); i++) {
      counters.get(i).add(other.counters.get(i));
    }
    other.splits.forEach(
        (facet, counted) ->
            splits.computeIfAbsent(facet, own -> new ArrayList<>()).addAll(counted));
    if (groups != null && other.groups != null) {
      groups.add(other.groups);
    }
  }

  /** How many results there are; at least so many if it is not {@link #isExact exact}. */
  long total() {
    return total;
  }

  boolean isExact() {
    return exact && !budget.isOver();
  }

  /** The first results. */
  List<Order.Entry> first() {
    return order.first(best, wanted);
  }

  List<FacetCounter> counters() {
    return counters;
  }

  @Nullable Groups groups() {
    return groups;
  }

  /**
   * Counts the inner facet of one that is split, within a value of the outer one.
   *
   * @param facet its number in the request, from 0
   */
  FacetCounter within(int facet, SplitFacet split, Object value) {
    Query choice = split.values().choosing(List.of(value)).choice();
    FacetCounter inner = FacetCounter.of(split.inner(), search.schema(), budget);
    for (Counted counted : splits.getOrDefault(facet, List.of())) {
      DocBits docs = counted.docs.copy();
      docs.and(counted.filter.bits(choice));
      inner.count(counted.filter.segment(), docs);
      budget.mayContinue(docs.count());
    }
    return inner;
  }

  /**
   * What was found, to be added to what other shards found.
   *
   * @param split the values within which facets are to be counted, by their numbers
   */
  ShardResult told(Map<Integer, List<Object>> split) {
    List<Order.Entry> entries = groups == null ? first() : List.of();
    Map<Integer, ShardResult.Split> within = new HashMap<>();
    for (int i = 0; i < counters.size(); i++) {
      if (request.facets().get(i) instanceof SplitFacet asked) {
        within.put(i, told(i, asked, split.get(i)));
      }
    }
    return new ShardResult(
        total,
        exact,
        budget.isOver(),
        entries.stream().map(order::place).toList(),
        wanted <= MAX_SHOWN ? ShownHits.of(search, entries) : List.of(),
        counters.stream().map(FacetCounter::part).toList(),
        within,
        groups == null ? List.of() : groups.told());
  }

  private ShardResult.Split told(int facet, SplitFacet split, @Nullable List<Object> asked) {
    FacetResult outer = counters.get(facet).result();
    List<Object> values =
        asked == null ? outer.values().stream().map(FacetResult.Value::value).toList() : asked;
    return new ShardResult.Split(
        asked != null || !outer.more(),
        values.stream()
            .map(value -> new ShardResult.Within(value, within(facet, split, value).part()))
            .toList());
  }

  private void searchSlice(Slice slice, long most) {
    SegmentReader segment = slice.view().reader();
    SegmentFilter filter = search.filter(segment);
    DocBits eligible = slice.view().live();
    if (!(plan instanceof Plan.Filter)) {
      eligible.keep(slice.from(), slice.end());
    }
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
    Signals signals = new Signals(search.signals(), segment, filter::recurring);
    SegmentTop top = new SegmentTop(wanted, order, segment, request.after(), floor());
    if (!any && offerFirst(filter, eligible, signals, top)) {
      exact = false;
    } else if (search.mustKnowAll() || search.findsAllSooner() && most >= segment.documents()) {
      DocBits matched = matched(filter, eligible, signals);
      DocBits results = matched;
      if (any) {
        results = matched.copy();
        results.and(wantedDocs);
      }
      boolean ranked = rankInOrder(slice, results, signals, top);
      matched.keep(slice.from(), slice.end());
      results.keep(slice.from(), slice.end());
      int found = results.count();
      total += found;
      if (!ranked && found > 0) {
        rank(filter, segment, results, signals, top);
      }
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
    } else {
      TopSearch pruning =
          new TopSearch(
              wantedDocs,
              top,
              signals,
              budget,
              Math.max(0, request.countUpTo() - total),
              most,
              request.countUpTo() == 0);
      pruning.run(() -> filter.matchers().matcher(plan));
      total += pruning.counted();
      exact &= !pruning.pruned();
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
    int end = eligible.end();
    for (int doc = matcher.advance(Math.max(0, eligible.next(0))); doc < end; ) {
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
    return plan instanceof Plan.Filter && !search.signals().isEmpty() ? 1 : matcher.score();
  }

  /**
   * Ranks results that score the same along an order of all documents, if most documents are
   * results: then the first of them stand near its beginning. One slice of a segment does so for
   * all.
   *
   * @param results of the whole segment
   * @return whether nothing is left to be ranked
   */
  private boolean rankInOrder(Slice slice, DocBits results, Signals signals, SegmentTop top) {
    SegmentReader segment = slice.view().reader();
    if (groups != null
        || !(plan instanceof Plan.Filter)
        || !signals.isEmpty()
        || (long) results.count() * MOST < segment.documents()) {
      return false;
    }
    if (order.isByRelevance()) {
      if (slice.isFirst()) {
        top.offerByKey(results, budget);
      }
      return true;
    }
    int[] documents = order.documents(segment);
    if (documents != null && slice.isFirst()) {
      top.offerFirst(documents, results, budget);
    }
    return documents != null;
  }

  private void rank(
      SegmentFilter filter,
      SegmentReader segment,
      DocBits results,
      Signals signals,
      SegmentTop top) {
    if (groups != null) {
      Groups.InSegment here = groups.new InSegment(segment);
      offerAll(filter, results, signals, here::offer);
    } else if (wanted > 0 && (plan instanceof Plan.Filter || !order.isByRelevance())) {
      offerAll(filter, results, signals, top::offer);
    } else if (wanted > 0) {
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
}
