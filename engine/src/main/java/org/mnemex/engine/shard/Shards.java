package org.mnemex.engine.shard;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.function.BiFunction;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * The shards of an edition at one moment, or those that can be asked; each key is in one of them.
 */
public interface Shards {
  /** Shards that the caller's thread asks one after another. */
  static Shards inTurn(List<Shard> all) {
    return new Shards() {
      @Override
      public <T extends @Nullable Object> List<T> each(BiFunction<Integer, Shard, T> question) {
        List<T> answers = new ArrayList<>();
        for (int i = 0; i < all.size(); i++) {
          answers.add(question.apply(i, all.get(i)));
        }
        return answers;
      }
    };
  }

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

  /** Numbers of the edition's shards that nobody can be asked for now, and that are left out. */
  default Set<Integer> away() {
    return Set.of();
  }
}
