package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetCounter;
import org.mnemex.engine.facet.FacetPart;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.shard.ShardResult;
import org.mnemex.engine.shard.ShardSearch;
import org.mnemex.engine.shard.Shards;

/** Makes one result of what each shard has found. */
final class MergedSearch {
  private final PreparedSearch search;
  private final Shards shards;
  private final ShardSearch asked;
  private final List<ShardResult> found;

  /**
   * @param search ready, with all facts
   * @param asked the same for shards
   * @param found what each shard has found
   */
  MergedSearch(PreparedSearch search, Shards shards, ShardSearch asked, List<ShardResult> found) {
    this.search = search;
    this.shards = shards;
    this.asked = asked;
    this.found = found;
  }

  SearchResult result() {
    boolean partial = found.stream().anyMatch(ShardResult::partial);
    List<Group> groups = search.request().group() == null ? List.of() : groups();
    List<Group> shownGroups = page(after(groups));
    List<Order.Elsewhere> first =
        search.request().group() == null
            ? page(first())
            : shownGroups.stream().flatMap(group -> group.best.stream()).toList();
    List<SearchResult.Hit> hits = shown(first);
    return new SearchResult(
        found.stream().mapToLong(ShardResult::total).sum(),
        found.stream().allMatch(ShardResult::exact) && !partial,
        groups.size(),
        search.request().group() == null ? hits : grouped(shownGroups, hits),
        facets(),
        search.snapshot().checkpoint(),
        partial);
  }

  private List<Order.Elsewhere> first() {
    List<Order.Elsewhere> all = new ArrayList<>();
    for (int shard = 0; shard < found.size(); shard++) {
      for (ShardResult.Place place : found.get(shard).first()) {
        all.add(search.order().elsewhere(place, shard));
      }
    }
    return all.stream().sorted(search.order()::compare).limit(search.wanted()).toList();
  }

  private <T> List<T> page(List<T> first) {
    return first.subList(Math.min(search.request().offset(), first.size()), first.size());
  }

  /** Reads what is shown of results, each where it is. */
  private List<SearchResult.Hit> shown(List<Order.Elsewhere> entries) {
    Map<String, SearchResult.Hit> byKey = new HashMap<>();
    found.forEach(part -> part.shown().forEach(hit -> byKey.put(hit.key(), hit)));
    Map<Integer, List<String>> keys = new HashMap<>();
    for (Order.Elsewhere entry : entries) {
      if (!byKey.containsKey(entry.place().key())) {
        keys.computeIfAbsent(entry.shard(), shard -> new ArrayList<>()).add(entry.place().key());
      }
    }
    if (!keys.isEmpty()) {
      shards
          .each(
              (number, shard) ->
                  keys.containsKey(number)
                      ? shard.show(asked, keys.get(number))
                      : List.<SearchResult.@Nullable Hit>of())
          .forEach(
              hits ->
                  hits.stream().filter(Objects::nonNull).forEach(hit -> byKey.put(hit.key(), hit)));
    }
    return entries.stream().map(entry -> placed(entry.place(), byKey)).toList();
  }

  private SearchResult.Hit placed(ShardResult.Place place, Map<String, SearchResult.Hit> shown) {
    SearchResult.Hit hit = shown.get(place.key());
    if (hit == null) {
      throw new IllegalStateException("a shard has lost its result '" + place.key() + "'");
    }
    return new SearchResult.Hit(
        hit.key(),
        place.score(),
        hit.fields(),
        hit.highlights(),
        hit.rows(),
        new SearchRequest.Cursor(
            place.sortValues(), place.score(), place.key(), search.scores().basis()),
        null);
  }

  private List<FacetResult> facets() {
    List<FacetRequest> requests = search.request().facets();
    List<FacetResult> results = new ArrayList<>();
    Map<Integer, List<Object>> split = new HashMap<>();
    List<FacetCounter> counters = search.counters();
    for (int i = 0; i < counters.size(); i++) {
      for (ShardResult part : found) {
        counters.get(i).add(part.facets().get(i));
      }
      FacetResult result = counters.get(i).result();
      results.add(result);
      if (requests.get(i) instanceof SplitFacet) {
        split.put(i, result.values().stream().map(FacetResult.Value::value).toList());
      }
    }
    boolean areTold =
        split.entrySet().stream().allMatch(one -> areTold(one.getKey(), one.getValue()));
    List<ShardResult> within =
        areTold
            ? found
            : shards.each(shard -> shard.search(List.of(asked.splitting(split))).getFirst());
    split
        .keySet()
        .forEach(
            i -> results.set(i, split(i, (SplitFacet) requests.get(i), results.get(i), within)));
    return results;
  }

  /** Whether all shards have told what they counted within the values that are shown. */
  private boolean areTold(int facet, List<Object> values) {
    return found.stream()
        .map(part -> part.split().get(facet))
        .allMatch(
            split ->
                split.isComplete()
                    || values.stream().allMatch(value -> within(facet, split, value) != null));
  }

  private @Nullable FacetPart within(int facet, ShardResult.Split split, Object value) {
    Object same = same(facet, value);
    return split.within().stream()
        .filter(one -> same(facet, one.value()).equals(same))
        .findFirst()
        .map(ShardResult.Within::counts)
        .orElse(null);
  }

  /** Shards may spell the same value differently. */
  private Object same(int facet, Object value) {
    Field field = search.schema().field(search.request().facets().get(facet).field());
    return field.fold() && value instanceof String text ? field.term(text) : value;
  }

  private FacetResult split(
      int facet, SplitFacet request, FacetResult outer, List<ShardResult> parts) {
    List<FacetResult.Value> values = new ArrayList<>();
    for (FacetResult.Value value : outer.values()) {
      FacetCounter inner = FacetCounter.of(request.inner(), search.schema(), search.budget());
      for (ShardResult part : parts) {
        FacetPart counts =
            within(facet, Objects.requireNonNull(part.split().get(facet)), value.value());
        if (counts != null) {
          inner.add(counts);
        }
      }
      values.add(
          new FacetResult.Value(value.value(), value.count(), value.chosen(), inner.result()));
    }
    return new FacetResult(outer.name(), values, outer.more());
  }

  /** Results with the same value, in all shards. */
  private static final class Group {
    private @Nullable Object value;
    private long total;
    private List<Order.Elsewhere> best = List.of();
  }

  private List<Group> groups() {
    int most = Objects.requireNonNull(search.request().group()).best();
    List<Group> all = new ArrayList<>();
    Map<Object, Group> bySame = new HashMap<>();
    for (int shard = 0; shard < found.size(); shard++) {
      for (ShardResult.Group theirs : found.get(shard).groups()) {
        Group group = theirs.same() == null ? null : bySame.get(theirs.same());
        if (group == null) {
          group = new Group();
          all.add(group);
          if (theirs.same() != null) {
            bySame.put(theirs.same(), group);
          }
        }
        add(group, theirs, shard, most);
      }
    }
    all.sort((a, b) -> search.order().compare(a.best.getFirst(), b.best.getFirst()));
    return all;
  }

  private void add(Group group, ShardResult.Group theirs, int shard, int most) {
    List<Order.Elsewhere> both = new ArrayList<>(group.best);
    theirs.best().forEach(place -> both.add(search.order().elsewhere(place, shard)));
    both.sort(search.order()::compare);
    group.total += theirs.total();
    // As its best result spells it.
    group.value = both.getFirst().shard() == shard ? theirs.value() : group.value;
    group.best = both.subList(0, Math.min(both.size(), most));
  }

  /** The first groups of those that come after the place where a search goes on. */
  private List<Group> after(List<Group> all) {
    SearchRequest.Cursor after = search.request().after();
    Order.Elsewhere from =
        after == null
            ? null
            : search
                .order()
                .elsewhere(
                    new ShardResult.Place(after.sortValues(), after.score(), after.key()), -1);
    return all.stream()
        .filter(group -> from == null || search.order().compare(group.best.getFirst(), from) > 0)
        .limit(search.wanted())
        .toList();
  }

  private static List<SearchResult.Hit> grouped(List<Group> page, List<SearchResult.Hit> flat) {
    List<SearchResult.Hit> hits = new ArrayList<>();
    int at = 0;
    for (Group group : page) {
      int end = at + group.best.size();
      hits.add(
          flat.get(at)
              .in(new SearchResult.Group(group.value, group.total, flat.subList(at + 1, end))));
      at = end;
    }
    return hits;
  }
}
