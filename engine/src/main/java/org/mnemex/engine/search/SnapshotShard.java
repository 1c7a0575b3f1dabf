package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.ShardResult;
import org.mnemex.engine.shard.ShardSearch;

/** A snapshot in this process as a shard of an edition whose other shards are elsewhere. */
public final class SnapshotShard implements Shard {
  private final SearchedSnapshot searched;
  private final Snapshot snapshot;

  public SnapshotShard(SearchedSnapshot searched) {
    this.searched = searched;
    this.snapshot = searched.snapshot();
  }

  @Override
  public Shard helpedBy(Helpers helpers) {
    return new SnapshotShard(new SearchedSnapshot(snapshot, searched.cache(), helpers));
  }

  @Override
  public long documents() {
    return snapshot.documents();
  }

  @Override
  public Map<String, Fact> facts(List<SearchRequest> requests, boolean scored) {
    Budget budget = budget(requests.getFirst().limits());
    TellingStatistics statistics = new TellingStatistics(snapshot, budget, scored);
    for (SearchRequest request : requests) {
      PreparedSearch.ahead(snapshot, request, budget, statistics);
    }
    return statistics.facts();
  }

  @Override
  public List<ShardResult> search(List<ShardSearch> searches) {
    return each(
        searches,
        search -> {
          PreparedSearch prepared = prepared(search);
          PartSearch found =
              search.most() == Long.MAX_VALUE
                  ? Searcher.all(prepared, searched.helpers())
                  : Searcher.some(prepared, search.most());
          return found.told(search.split());
        });
  }

  @Override
  public List<Long> counts(List<ShardSearch> searches) {
    return each(searches, search -> Searcher.some(prepared(search), search.most()).total());
  }

  /** Answers one after another, all within the limits of the first. */
  private <T> List<T> each(List<ShardSearch> searches, Function<ShardSearch, T> answer) {
    Budget budget = budget(searches.getFirst().request().limits());
    return searches.stream().map(search -> answer.apply(search.within(budget.left()))).toList();
  }

  private PreparedSearch prepared(ShardSearch search) {
    return PreparedSearch.ofShard(snapshot, search, searched.cache());
  }

  @Override
  public List<SearchResult.@Nullable Hit> show(ShardSearch search, List<String> keys) {
    PreparedSearch prepared = prepared(search);
    List<Order.@Nullable Entry> entries = keys.stream().map(this::entry).toList();
    List<SearchResult.Hit> shown =
        ShownHits.of(prepared, entries.stream().filter(entry -> entry != null).toList());
    List<SearchResult.@Nullable Hit> all = new ArrayList<>();
    int next = 0;
    for (Order.Entry entry : entries) {
      all.add(entry == null ? null : shown.get(next++));
    }
    return all;
  }

  /** A document as a result without a score; null if there is none with that key. */
  private Order.@Nullable Entry entry(String key) {
    byte[] utf8 = key.getBytes(StandardCharsets.UTF_8);
    for (SegmentView view : snapshot.segments()) {
      int doc = view.find(utf8);
      if (doc >= 0) {
        return new Order.Entry(view.reader(), doc, 0, 0, false);
      }
    }
    return null;
  }

  @Override
  public @Nullable Explanation explain(ShardSearch search, String key) {
    return Explainer.explain(PreparedSearch.ofShard(snapshot, search, null), key);
  }

  @Override
  public Fact.Terms completions(
      String field, String beginning, int edits, boolean prefix, int most, SearchLimits limits) {
    return new BestTerms(snapshot, field(field), budget(limits))
        .candidates(Completions.rule(beginning, edits, prefix, most));
  }

  @Override
  public Map<String, Map<String, Long>> having(
      Map<String, List<String>> terms, SearchLimits limits) {
    return searched.having(terms, budget(limits));
  }

  @Override
  public List<Phrases.Found> values(String field, String typed, int most) {
    return searched.values(field(field), typed, most);
  }

  private Field field(String name) {
    return snapshot.schema().field(name);
  }

  private Budget budget(SearchLimits limits) {
    return new Budget(limits, System::nanoTime, snapshot.documents());
  }
}
