package org.mnemex.service.shard;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.ShardResult;
import org.mnemex.engine.shard.ShardSearch;

/**
 * A call of a {@link Shard}, as data.
 *
 * @param <T> what is answered
 */
sealed interface ShardCall<T extends @Nullable Object> {
  /** Calls it. */
  ShardAnswer answer(Shard shard);

  /** What it says. */
  T said(ShardAnswer answer);

  /** See {@link Shard#documents}. */
  record Documents() implements ShardCall<Long> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Count(shard.documents());
    }

    @Override
    public Long said(ShardAnswer answer) {
      return ((ShardAnswer.Count) answer).documents();
    }
  }

  /** See {@link Shard#facts}. */
  record Facts(List<SearchRequest> requests, boolean scored)
      implements ShardCall<Map<String, Fact>> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Facts(shard.facts(requests, scored));
    }

    @Override
    public Map<String, Fact> said(ShardAnswer answer) {
      return ((ShardAnswer.Facts) answer).facts();
    }
  }

  /** See {@link Shard#search}. */
  record Search(List<ShardSearch> searches) implements ShardCall<List<ShardResult>> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Found(shard.search(searches));
    }

    @Override
    public List<ShardResult> said(ShardAnswer answer) {
      return ((ShardAnswer.Found) answer).results();
    }
  }

  /** See {@link Shard#counts}. */
  record Counts(List<ShardSearch> searches) implements ShardCall<List<Long>> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Counts(shard.counts(searches));
    }

    @Override
    public List<Long> said(ShardAnswer answer) {
      return ((ShardAnswer.Counts) answer).results();
    }
  }

  /** See {@link Shard#show}. */
  record Show(ShardSearch search, List<String> keys)
      implements ShardCall<List<SearchResult.@Nullable Hit>> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Hits(shard.show(search, keys));
    }

    @Override
    public List<SearchResult.@Nullable Hit> said(ShardAnswer answer) {
      return ((ShardAnswer.Hits) answer).hits();
    }
  }

  /** See {@link Shard#explain}. */
  record Explain(ShardSearch search, String key) implements ShardCall<@Nullable Explanation> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Explained(shard.explain(search, key));
    }

    @Override
    public @Nullable Explanation said(ShardAnswer answer) {
      return ((ShardAnswer.Explained) answer).explanation();
    }
  }

  /** See {@link Shard#completions}. */
  record Completions(
      String field, String beginning, int edits, boolean prefix, int most, SearchLimits limits)
      implements ShardCall<Fact.Terms> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Terms(
          shard.completions(field, beginning, edits, prefix, most, limits));
    }

    @Override
    public Fact.Terms said(ShardAnswer answer) {
      return ((ShardAnswer.Terms) answer).terms();
    }
  }

  /** See {@link Shard#having}. */
  record Having(Map<String, List<String>> terms, SearchLimits limits)
      implements ShardCall<Map<String, Map<String, Long>>> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Having(shard.having(terms, limits));
    }

    @Override
    public Map<String, Map<String, Long>> said(ShardAnswer answer) {
      return ((ShardAnswer.Having) answer).documents();
    }
  }

  /** See {@link Shard#values}. */
  record Values(String field, String typed, int most) implements ShardCall<List<Phrases.Found>> {
    @Override
    public ShardAnswer answer(Shard shard) {
      return new ShardAnswer.Fitting(shard.values(field, typed, most));
    }

    @Override
    public List<Phrases.Found> said(ShardAnswer answer) {
      return ((ShardAnswer.Fitting) answer).values();
    }
  }
}
