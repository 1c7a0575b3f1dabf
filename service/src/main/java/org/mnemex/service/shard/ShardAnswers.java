package org.mnemex.service.shard;

import jakarta.annotation.PreDestroy;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.EngineException;
import org.mnemex.service.compute.SearchSlots;
import org.springframework.stereotype.Component;

/** Answers questions of other nodes about shards that are here. */
@Component
public class ShardAnswers {
  /** A node that asks may have other nodes to ask. */
  private static final int WAITING_MILLIS = 5_000;

  /**
   * Of their own: a search here may wait for another node, and that for its search in a shard here.
   */
  private final SearchSlots slots;

  ShardAnswers(SearchSlots slots) {
    this.slots = slots.others();
  }

  /** Where shards are found. */
  @FunctionalInterface
  public interface Shelf {
    /**
     * Shards of an edition; null if they are not here, or not any more.
     *
     * @param edition names of the edition at all builders
     * @param shards numbers from 0
     * @param states which commit of each shard
     */
    @Nullable SearchView held(List<String> edition, List<Integer> shards, List<String> states);
  }

  /**
   * Answers a question.
   *
   * @param question as another node has written it
   * @return the answer as that node reads it
   * @throws tools.jackson.core.JacksonException if it is no question
   */
  public byte[] answer(byte[] question, Shelf shelf) {
    ShardQuestion asked = ShardJson.read(question, ShardQuestion.class);
    SearchView view = shelf.held(asked.edition(), asked.shards(), asked.states());
    return ShardJson.written(
        view == null
            ? new ShardAnswer.NotHere()
            : slots.run(WAITING_MILLIS, () -> answer(asked.call(), view)));
  }

  private ShardAnswer answer(ShardCall<?> call, SearchView view) {
    try {
      return call.answer(view.helpedBy(slots).shard());
    } catch (EngineException e) {
      ShardAnswer refused = ShardAnswer.Refused.of(e);
      if (refused == null) {
        throw e;
      }
      return refused;
    }
  }

  @PreDestroy
  void stop() {
    slots.stop();
  }
}
