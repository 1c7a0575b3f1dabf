package org.mnemex.engine;

import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.IntFunction;
import java.util.function.Supplier;
import org.mnemex.engine.limit.Helpers;

/**
 * A thread for each part of a search, however few documents there are.
 *
 * @param parts into how many it is divided
 */
public record HelpingThreads(int parts) implements Helpers {
  private static final ExecutorService THREADS =
      Executors.newCachedThreadPool(Thread.ofPlatform().daemon().factory());

  @Override
  public <T> List<T> share(long documents, IntFunction<List<Supplier<T>>> divide) {
    List<CompletableFuture<T>> running =
        divide.apply(parts).stream()
            .map(part -> CompletableFuture.supplyAsync(part, THREADS))
            .toList();
    return running.stream().map(CompletableFuture::join).toList();
  }
}
