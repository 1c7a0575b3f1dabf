package org.mnemex.service.shard;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.CompletionService;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorCompletionService;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.shard.Shard;

/**
 * One question to several shards. Those at other nodes are asked by threads of their own, those in
 * this process by the caller. A node that takes twice as long as half of the others do for the same
 * question is slow, and another one is asked as well: a hedged request (Dean and Barroso, "The tail
 * at scale", 2013). If a node cannot answer, the other one is asked at once.
 *
 * @param <T> what each shard answers
 */
final class Question<T extends @Nullable Object> {
  private static final ExecutorService THREADS = Executors.newVirtualThreadPerTaskExecutor();

  /** Nobody is slow before. */
  private static final long LEAST_NANOS = TimeUnit.MILLISECONDS.toNanos(10);

  private static final int TIMES_SLOWER = 2;

  private final List<Shard> shards;
  private final BiFunction<Integer, Shard, T> question;
  private final Hedging hedging;
  private final CompletionService<Answer<T>> calls = new ExecutorCompletionService<>(THREADS);
  private final List<Future<Answer<T>>> running = new ArrayList<>();
  private final List<@Nullable Answer<T>> answers;

  /** How many calls of each shard have not come back, and whether a second node was asked. */
  private final int[] open;

  private final boolean[] isAskedTwice;

  /** Whether it was seen to what is slow. */
  private boolean isSeenTo;

  private final long start = System.nanoTime();
  private int answered;

  /** When half of the shards had answered, since the start; 0 before. */
  private long half;

  /**
   * What a shard says.
   *
   * @param away why it cannot be asked, or null
   */
  private record Answer<T extends @Nullable Object>(
      int shard, T said, @Nullable ShardAwayException away) {}

  Question(List<Shard> shards, BiFunction<Integer, Shard, T> question, Hedging hedging) {
    this.shards = shards;
    this.question = question;
    this.hedging = hedging;
    this.answers = new ArrayList<>(Collections.nCopies(shards.size(), null));
    this.open = new int[shards.size()];
    this.isAskedTwice = new boolean[shards.size()];
  }

  /**
   * Asks, and waits.
   *
   * @return the answers in the order of the shards
   * @throws ShardAwayException if there is none of a shard
   */
  List<T> answers() {
    try {
      for (int i = 0; i < shards.size(); i++) {
        if (shards.get(i) instanceof Elsewhere) {
          ask(i, shards.get(i));
        }
      }
      for (int i = 0; i < shards.size(); i++) {
        if (!(shards.get(i) instanceof Elsewhere)) {
          take(new Answer<>(i, question.apply(i, shards.get(i)), null));
        }
      }
      while (answered < shards.size()) {
        Future<Answer<T>> next = next();
        if (next == null) {
          askTwice();
        } else {
          take(answer(next));
        }
      }
      List<T> all = new ArrayList<>();
      for (Answer<T> answer : answers) {
        all.add(answer == null ? null : answer.said);
      }
      return all;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ShardAwayException("the search was given up", e);
    } finally {
      // Of no use any more.
      running.forEach(call -> call.cancel(true));
    }
  }

  @SuppressWarnings("NullAway")
  private void ask(int number, Shard shard) {
    open[number]++;
    running.add(
        calls.submit(
            () -> {
              try {
                return new Answer<>(number, question.apply(number, shard), null);
              } catch (ShardAwayException e) {
                return new Answer<>(number, null, e);
              }
            }));
  }

  /** The next call that has come back; null if what is missing is slow. */
  private @Nullable Future<Answer<T>> next() throws InterruptedException {
    if (half == 0 || isSeenTo) {
      return calls.take();
    }
    long patience = Math.max(LEAST_NANOS, TIMES_SLOWER * half);
    return calls.poll(start + patience - System.nanoTime(), TimeUnit.NANOSECONDS);
  }

  /** Another node for a shard that has not been asked yet; null if there is none. */
  private @Nullable Shard second(int number) {
    return !isAskedTwice[number] && shards.get(number) instanceof Elsewhere elsewhere
        ? elsewhere.second()
        : null;
  }

  /** Asks others for what is missing, once, as far as that is allowed. */
  private void askTwice() {
    isSeenTo = true;
    for (int i = 0; i < shards.size(); i++) {
      Shard second = second(i);
      if (answers.get(i) == null && second != null && hedging.mayAskTwice(half)) {
        isAskedTwice[i] = true;
        ask(i, second);
      }
    }
  }

  private void take(Answer<T> answer) {
    int number = answer.shard;
    open[number]--;
    if (answers.get(number) != null) {
      return;
    }
    if (answer.away == null) {
      long nanos = System.nanoTime() - start;
      answers.set(number, answer);
      answered++;
      half = half == 0 && 2 * answered >= shards.size() ? nanos : half;
      hedging.answered(nanos);
      return;
    }
    Shard second = second(number);
    if (second != null) {
      isAskedTwice[number] = true;
      ask(number, second);
    } else if (open[number] == 0) {
      throw answer.away;
    }
  }

  private static <T extends @Nullable Object> Answer<T> answer(Future<Answer<T>> call)
      throws InterruptedException {
    try {
      return call.get();
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case RuntimeException known -> throw known;
        case Error error -> throw error;
        case null, default -> throw new IllegalStateException(e.getCause());
      }
    }
  }
}
