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

/** Shards of an edition at another node, each as it was at one moment. */
public final class Remote implements Elsewhere {
  private final OtherNode node;
  private final @Nullable OtherNode second;
  private final List<Held> held;

  /**
   * @param second another node that has them as well; null if none has them all
   * @param held which they are, at least one, all of the same edition
   */
  Remote(OtherNode node, @Nullable OtherNode second, List<Held> held) {
    this.node = node;
    this.second = second;
    this.held = List.copyOf(held);
  }

  /** What of the edition this is. */
  public List<Held> held() {
    return held;
  }

  @Override
  public @Nullable Shard second() {
    return second == null ? null : new Remote(second, null, held);
  }

  private <T extends @Nullable Object> T ask(ShardCall<T> call) {
    ShardAnswer answer =
        node.ask(
            new ShardQuestion(
                held.getFirst().edition(),
                held.stream().map(Held::shard).toList(),
                held.stream().map(Held::state).toList(),
                call));
    return switch (answer) {
      case ShardAnswer.Refused refused -> throw refused.thrown();
      case ShardAnswer.NotHere notHere -> {
        node.wake();
        throw new ShardAwayException(
            "node '%s' has gone on to a later commit".formatted(node.node().name()));
      }
      default -> call.said(answer);
    };
  }

  @Override
  public long documents() {
    return ask(new ShardCall.Documents());
  }

  @Override
  public Map<String, Fact> facts(List<SearchRequest> requests, boolean scored) {
    return ask(new ShardCall.Facts(requests, scored));
  }

  @Override
  public List<ShardResult> search(List<ShardSearch> searches) {
    return ask(new ShardCall.Search(searches));
  }

  @Override
  public List<Long> counts(List<ShardSearch> searches) {
    return ask(new ShardCall.Counts(searches));
  }

  @Override
  public List<SearchResult.@Nullable Hit> show(ShardSearch search, List<String> keys) {
    return ask(new ShardCall.Show(search, keys));
  }

  @Override
  public @Nullable Explanation explain(ShardSearch search, String key) {
    return ask(new ShardCall.Explain(search, key));
  }

  @Override
  public Fact.Terms completions(
      String field, String beginning, int edits, boolean prefix, int most, SearchLimits limits) {
    return ask(new ShardCall.Completions(field, beginning, edits, prefix, most, limits));
  }

  @Override
  public Map<String, Map<String, Long>> having(
      Map<String, List<String>> terms, SearchLimits limits) {
    return ask(new ShardCall.Having(terms, limits));
  }

  @Override
  public List<Phrases.Found> values(String field, String typed, int most) {
    return ask(new ShardCall.Values(field, typed, most));
  }
}
