package org.mnemex.service.shard;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletionService;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorCompletionService;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/**
 * Asks a second node if the first one takes longer than 19 of 20 calls do, and takes the answer
 * that comes first: hedged requests (Dean and Barroso, "The tail at scale", 2013). If the first one
 * cannot answer, the second one is asked at once.
 */
final class Hedging {
  private static final ExecutorService THREADS = Executors.newVirtualThreadPerTaskExecutor();

  /** The share of calls that are answered before a second node is asked. */
  private static final double SHARE = 0.95;

  /** How far one call moves what is known of them all. */
  private static final double STEP = 0.05;

  private static final double SHORTEST = TimeUnit.MILLISECONDS.toNanos(5);
  private static final double LONGEST = TimeUnit.SECONDS.toNanos(1);

  /** Where all nodes are slow, asking twice makes them slower: of many calls this many are. */
  private static final double TWICE = 0.1;

  private static final double MAX_TWICE = 20;

  /** How long {@link #SHARE} of the calls take, in nanoseconds. */
  private double usual = TimeUnit.MILLISECONDS.toNanos(50);

  /** How many calls may be asked twice now. */
  private double allowed;

  Hedging() {
    this(MAX_TWICE);
  }

  Hedging(double allowed) {
    this.allowed = allowed;
  }

  /**
   * Asks.
   *
   * @param first throws {@link ShardAwayException} if it cannot be asked
   * @param second the same of another node; null if there is none
   * @return the answer that comes first
   * @throws ShardAwayException if neither can be asked
   */
  <T extends @Nullable Object> T ask(Supplier<T> first, @Nullable Supplier<T> second) {
    long start = System.nanoTime();
    T answer = second == null ? first.get() : either(first, second);
    took(System.nanoTime() - start);
    return answer;
  }

  private <T extends @Nullable Object> T either(Supplier<T> first, Supplier<T> second) {
    CompletionService<T> calls = new ExecutorCompletionService<>(THREADS);
    List<Future<T>> asked = new ArrayList<>();
    asked.add(calls.submit(first::get));
    try {
      Future<T> ended = calls.poll(usual(), TimeUnit.NANOSECONDS);
      if (ended == null && mayAskTwice()) {
        asked.add(calls.submit(second::get));
      }
      for (int i = 1; ; i++) {
        try {
          return answer(ended == null ? calls.take() : ended);
        } catch (ShardAwayException e) {
          if (i == 2) {
            throw e;
          }
          if (asked.size() == 1) {
            asked.add(calls.submit(second::get));
          }
          ended = null;
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ShardAwayException("the call was given up", e);
    } finally {
      asked.forEach(one -> one.cancel(true));
    }
  }

  private static <T extends @Nullable Object> T answer(Future<T> ended)
      throws InterruptedException {
    try {
      return ended.get();
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case RuntimeException known -> throw known;
        case Error error -> throw error;
        case null, default -> throw new IllegalStateException(e.getCause());
      }
    }
  }

  /** How long a first call is waited for, in nanoseconds. */
  synchronized long usual() {
    return (long) usual;
  }

  private synchronized boolean mayAskTwice() {
    boolean may = allowed >= 1;
    allowed -= may ? 1 : 0;
    return may;
  }

  /** A percentile by stochastic approximation: it rests where a share of the calls takes longer. */
  private synchronized void took(long nanos) {
    double factor = 1 + STEP * (nanos > usual ? SHARE : SHARE - 1);
    usual = Math.clamp(usual * factor, SHORTEST, LONGEST);
    allowed = Math.min(MAX_TWICE, allowed + TWICE);
  }
}
