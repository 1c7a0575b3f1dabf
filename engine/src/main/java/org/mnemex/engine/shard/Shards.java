package org.mnemex.engine.shard;

import java.util.List;
import java.util.function.BiFunction;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** All shards of an edition at one moment; each key is in one of them. */
public interface Shards {
  /**
   * Asks all of them, at the same time if that is possible.
   *
   * @param question of a shard and its number, from 0
   * @return the answers in the order of the shards
   */
  <T extends @Nullable Object> List<T> each(BiFunction<Integer, Shard, T> question);

  /** The same for a question that does not depend on the shard's number. */
  default <T extends @Nullable Object> List<T> each(Function<Shard, T> question) {
    return each((number, shard) -> question.apply(shard));
  }
}
