package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.ShardResult;
import org.mnemex.engine.shard.ShardSearch;
import org.mnemex.engine.shard.Shards;

/**
 * An edition whose shards are elsewhere. Whatever is asked is answered as by a single edition with
 * all their documents: first the shards tell the facts that scores and choices depend on, which are
 * added up; then each searches with these, and what was found is merged; at last those that have
 * the best results tell what is shown of them, if they have not told it already.
 */
public final class SearchedShards implements Searched {
  private final Snapshot nothing;
  private final Shards shards;
  private final Map<String, Fact> facts;

  /**
   * @param shards with no key in two of them
   * @param facts known about these very shards; others are added. Thread-safe
   * @param checkpoint what results say about the moment that they are of
   */
  public SearchedShards(
      Schema schema, Shards shards, Map<String, Fact> facts, Checkpoint checkpoint) {
    this.nothing = new Snapshot(schema, List.of(), checkpoint, 0);
    this.shards = shards;
    this.facts = facts;
  }

  @Override
  public Schema schema() {
    return nothing.schema();
  }

  /** Shards in this process are helped. */
  @Override
  public Searched helpedBy(Helpers helpers) {
    return new SearchedShards(
        schema(), new HelpedShards(shards, helpers), facts, nothing.checkpoint());
  }

  private record HelpedShards(Shards shards, Helpers helpers) implements Shards {
    @Override
    public <T extends @Nullable Object> List<T> each(BiFunction<Integer, Shard, T> question) {
      return shards.each((number, shard) -> question.apply(number, shard.helpedBy(helpers)));
    }

    @Override
    public Set<Integer> away() {
      return shards.away();
    }
  }

  @Override
  public Set<Integer> away() {
    return shards.away();
  }

  @Override
  public long documents() {
    if (facts.get(FactNames.documents()) instanceof Fact.Count known) {
      return known.documents();
    }
    long sum = shards.each(Shard::documents).stream().mapToLong(Long::longValue).sum();
    facts.put(FactNames.documents(), new Fact.Count(sum));
    return sum;
  }

  @Override
  public SearchResult search(SearchRequest request) {
    return run(List.of(request), Long.MAX_VALUE, true).getFirst();
  }

  @Override
  public SearchResult some(SearchRequest request, long most) {
    return run(List.of(request), most, true).getFirst();
  }

  @Override
  public SearchResult any(SearchRequest request, long most) {
    return run(List.of(request), most, false).getFirst();
  }

  @Override
  public List<SearchResult> search(List<SearchRequest> requests, Budget budget) {
    SearchLimits left = budget.left();
    return run(
        requests.stream().map(request -> request.within(left)).toList(), Long.MAX_VALUE, true);
  }

  private List<SearchResult> run(List<SearchRequest> requests, long most, boolean scored) {
    List<PreparedSearch> searches = prepared(requests, scored);
    if (searches.isEmpty()) {
      return List.of();
    }
    List<ShardSearch> asked = searches.stream().map(search -> asked(search, most)).toList();
    List<List<ShardResult>> found = shards.each(shard -> shard.search(asked));
    List<SearchResult> results = new ArrayList<>();
    for (int i = 0; i < asked.size(); i++) {
      int number = i;
      List<ShardResult> each = found.stream().map(some -> some.get(number)).toList();
      results.add(new MergedSearch(searches.get(i), shards, asked.get(i), each).result());
    }
    return results;
  }

  /** Makes requests ready, and asks the shards for what is not known yet. */
  private List<PreparedSearch> prepared(List<SearchRequest> requests, boolean scored) {
    List<PreparedSearch> searches = new ArrayList<>();
    List<SearchRequest> unknown = new ArrayList<>();
    boolean isCounting = false;
    for (SearchRequest request : requests) {
      boolean counting = scored && PreparedSearch.given(request) == null;
      Budget budget = new Budget(request.limits(), System::nanoTime, documents());
      searches.add(ahead(request, budget, new ToldStatistics(facts, counting)));
      if (!isComplete(searches.getLast())) {
        unknown.add(request.within(budget.left()));
        isCounting |= counting;
      }
    }
    if (unknown.isEmpty()) {
      return searches;
    }
    boolean counting = isCounting;
    Map<String, Fact> told = new HashMap<>();
    shards
        .each(shard -> shard.facts(unknown, counting))
        .forEach(some -> some.forEach((name, fact) -> told.merge(name, fact, Fact::plus)));
    facts.putAll(told);
    searches.replaceAll(search -> isComplete(search) ? search : again(search, told, scored));
    return searches;
  }

  private PreparedSearch again(PreparedSearch search, Map<String, Fact> told, boolean scored) {
    SearchRequest request = search.request();
    boolean counting = scored && PreparedSearch.given(request) == null;
    PreparedSearch again = ahead(request, search.budget(), new ToldStatistics(told, counting));
    if (!isComplete(again)) {
      throw new IllegalStateException("shards have not told all about " + request);
    }
    return again;
  }

  private PreparedSearch ahead(SearchRequest request, Budget budget, ToldStatistics statistics) {
    return PreparedSearch.ahead(nothing, request, budget, statistics);
  }

  private static boolean isComplete(PreparedSearch search) {
    return ((ToldStatistics) search.statistics()).isComplete();
  }

  private static ShardSearch asked(PreparedSearch search, long most) {
    return new ShardSearch(
        search.request().within(search.budget().left()),
        most,
        search.scores().basis(),
        ((ToldStatistics) search.statistics()).chosen(),
        Map.of());
  }

  @Override
  public List<Long> counts(List<SearchRequest> requests, long most, Budget budget) {
    SearchLimits left = budget.left();
    List<ShardSearch> asked =
        prepared(
                requests.stream().map(request -> request.countingUpTo(most).within(left)).toList(),
                false)
            .stream()
            .map(search -> asked(search, most))
            .toList();
    if (asked.isEmpty()) {
      return List.of();
    }
    List<List<Long>> found = shards.each(shard -> shard.counts(asked));
    List<Long> sums = new ArrayList<>();
    for (int i = 0; i < asked.size(); i++) {
      int at = i;
      sums.add(Math.min(most, found.stream().mapToLong(counts -> counts.get(at)).sum()));
    }
    return sums;
  }

  @Override
  public List<Completions.Completion> completions(
      Field field, String beginning, int edits, boolean prefix, int most, Budget budget) {
    SearchLimits limits = budget.left();
    Fact.Terms terms =
        shards
            .each(shard -> shard.completions(field.name(), beginning, edits, prefix, most, limits))
            .stream()
            .reduce((a, b) -> (Fact.Terms) a.plus(b))
            .orElseThrow();
    return terms.chosen().stream()
        .map(term -> new Completions.Completion(term.text(), term.strength(), term.documents()))
        .toList();
  }

  @Override
  public Map<String, Map<String, Long>> having(
      Map<String, ? extends Collection<String>> terms, Budget budget) {
    if (terms.isEmpty()) {
      return Map.of();
    }
    Map<String, List<String>> asked = new HashMap<>();
    terms.forEach((field, some) -> asked.put(field, List.copyOf(some)));
    SearchLimits limits = budget.left();
    Map<String, Map<String, Long>> sums = new HashMap<>();
    shards
        .each(shard -> shard.having(asked, limits))
        .forEach(
            some ->
                some.forEach(
                    (field, documents) ->
                        documents.forEach(
                            (term, number) ->
                                sums.computeIfAbsent(field, name -> new HashMap<>())
                                    .merge(term, number, Long::sum))));
    return sums;
  }

  @Override
  public List<Phrases.Found> values(Field field, String typed, int most) {
    Map<String, Phrases.Found> found = new HashMap<>();
    shards
        .each(shard -> shard.values(field.name(), typed, most))
        .forEach(some -> FieldValues.add(found, some));
    return FieldValues.best(found, most);
  }

  @Override
  public @Nullable Explanation explain(SearchRequest request, String key) {
    ShardSearch asked = asked(prepared(List.of(request), true).getFirst(), Long.MAX_VALUE);
    List<@Nullable Explanation> explained =
        new ArrayList<>(shards.each(shard -> shard.explain(asked, key)));
    return explained.stream().filter(Objects::nonNull).findFirst().orElse(null);
  }
}
