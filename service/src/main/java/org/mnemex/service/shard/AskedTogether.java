package org.mnemex.service.shard;

import java.util.List;
import java.util.Set;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.Shards;

/** Shards that are asked at the same time: each at another node, and what is in this process. */
final class AskedTogether implements Shards {
  private final List<Shard> all;
  private final Set<Integer> away;
  private final Hedging hedging;

  /**
   * @param all at least one
   * @param away numbers of the edition's shards that are nowhere now
   */
  AskedTogether(List<Shard> all, Set<Integer> away, Hedging hedging) {
    this.all = List.copyOf(all);
    this.away = Set.copyOf(away);
    this.hedging = hedging;
  }

  @Override
  public <T extends @Nullable Object> List<T> each(BiFunction<Integer, Shard, T> question) {
    return new Question<T>(all, question, hedging).answers();
  }

  @Override
  public Set<Integer> away() {
    return away;
  }
}
