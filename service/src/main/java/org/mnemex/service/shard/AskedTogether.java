package org.mnemex.service.shard;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.Shards;

/**
 * Shards that are asked at the same time: each at another node by a thread of its own, the last one
 * by the caller.
 *
 * @param all at least one; what is in this process comes last
 * @param away numbers of the edition's shards that are nowhere now
 */
public record AskedTogether(List<Shard> all, Set<Integer> away) implements Shards {
  private static final ExecutorService THREADS = Executors.newVirtualThreadPerTaskExecutor();

  @Override
  public <T extends @Nullable Object> List<T> each(BiFunction<Integer, Shard, T> question) {
    List<Future<T>> running = new ArrayList<>();
    int last = all.size() - 1;
    for (int i = 0; i < last; i++) {
      int number = i;
      running.add(THREADS.submit(() -> question.apply(number, all.get(number))));
    }
    try {
      T own = question.apply(last, all.get(last));
      List<T> answers = new ArrayList<>();
      for (Future<T> one : running) {
        answers.add(ended(one));
      }
      answers.add(own);
      return answers;
    } finally {
      // Of no use any more if one has failed.
      running.forEach(one -> one.cancel(true));
    }
  }

  private static <T extends @Nullable Object> T ended(Future<T> one) {
    try {
      return one.get();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ShardAwayException("this service is stopping", e);
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case RuntimeException known -> throw known;
        case Error error -> throw error;
        case null, default -> throw new IllegalStateException(e.getCause());
      }
    }
  }
}
