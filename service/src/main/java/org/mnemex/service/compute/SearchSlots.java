package org.mnemex.service.compute;

import jakarta.annotation.PreDestroy;
import java.util.List;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.FutureTask;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.IntFunction;
import java.util.function.Supplier;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/**
 * Limits how many searches compute at once to what the processors can serve: more would not be
 * faster. Only so many may wait for a slot. A search computes on the thread of its call while
 * another slot is free; the last slot has a thread of its own, so that health and administration
 * never wait for searches. What is free then helps with large searches.
 */
@Component
public class SearchSlots implements Helpers {
  private static final int SEARCHES_A_PROCESSOR = 1;
  private static final int MAX_WAITING_A_SLOT = 32;

  /** Documents of a part: with fewer, it takes longer to ask for help than to do it alone. */
  private static final long WORTH_HELP = 4_000;

  /** When to try again, in seconds. */
  public static final int RETRY_SECONDS = 1;

  private final int atOnce;
  private final int maxWaiting;
  private final Semaphore slots;
  private final ExecutorService threads;

  SearchSlots() {
    this(SEARCHES_A_PROCESSOR * Runtime.getRuntime().availableProcessors());
  }

  /**
   * @param atOnce how many slots there are
   */
  SearchSlots(int atOnce) {
    this.atOnce = atOnce;
    this.maxWaiting = MAX_WAITING_A_SLOT * atOnce;
    this.slots = new Semaphore(atOnce, true);
    this.threads =
        Executors.newFixedThreadPool(
            atOnce, Thread.ofPlatform().daemon().name("search-", 0).factory());
  }

  /** As many slots for something else, which never waits for these. */
  public SearchSlots others() {
    return new SearchSlots(atOnce);
  }

  /**
   * Runs a search when a slot is free.
   *
   * @param limitMillis the longest wait
   * @throws ProblemException 503 if none was free in time, or too many are waiting
   */
  public <T> T run(int limitMillis, Supplier<T> work) {
    try {
      if (isFull() || !slots.tryAcquire(limitMillis, TimeUnit.MILLISECONDS)) {
        throw new ProblemException(
                ProblemType.TOO_BUSY,
                "the limit of %d running searches is reached and %d are waiting; this one could not start within %,d ms"
                    .formatted(atOnce, slots.getQueueLength(), limitMillis))
            .retryAfter(RETRY_SECONDS);
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ProblemException(ProblemType.STOPPING, "the service is stopping");
    }
    try {
      // The caller would wait for the search to be handed over and for its result to come back.
      return slots.availablePermits() > 0 ? work.get() : elsewhere(work);
    } finally {
      slots.release();
    }
  }

  /** Parts run in slots that nobody needs; the rest is done by the caller. */
  @Override
  public <T> List<T> share(long documents, IntFunction<List<Supplier<T>>> divide) {
    long parts = Math.min(1 + slots.availablePermits(), documents / WORTH_HELP);
    List<FutureTask<T>> tasks =
        divide.apply((int) Math.max(1, parts)).stream()
            .map(part -> new FutureTask<>(part::get))
            .toList();
    tasks.subList(1, tasks.size()).forEach(this::offer);
    // Whatever no thread has begun meanwhile is done here.
    tasks.forEach(FutureTask::run);
    tasks.forEach(SearchSlots::awaitEnd);
    return tasks.stream().map(SearchSlots::ended).toList();
  }

  private void offer(FutureTask<?> task) {
    if (!slots.tryAcquire()) {
      return;
    }
    try {
      threads.execute(
          () -> {
            try {
              task.run();
            } finally {
              slots.release();
            }
          });
    } catch (RejectedExecutionException e) {
      // The service is stopping. What runs comes to its end.
      slots.release();
    }
  }

  /** Waits even if interrupted: what a part reads may be closed when all have ended. */
  private static void awaitEnd(Future<?> task) {
    boolean interrupted = false;
    while (!task.isDone()) {
      try {
        task.get();
      } catch (InterruptedException e) {
        interrupted = true;
      } catch (ExecutionException e) {
        // Told when its result is asked for.
      }
    }
    if (interrupted) {
      Thread.currentThread().interrupt();
    }
  }

  private static <T> T ended(Future<T> task) {
    if (task.state() == Future.State.SUCCESS) {
      return task.resultNow();
    }
    throw unchecked(task.exceptionNow());
  }

  private static RuntimeException unchecked(Throwable cause) {
    if (cause instanceof Error error) {
      throw error;
    }
    return cause instanceof RuntimeException known ? known : new IllegalStateException(cause);
  }

  /** Whether no further search may wait. */
  public boolean isFull() {
    return slots.getQueueLength() >= maxWaiting;
  }

  /** How full the queue is, in a sentence. */
  public String fullness() {
    return "the limits of %d running and %d waiting searches are reached"
        .formatted(atOnce, maxWaiting);
  }

  private <T> T elsewhere(Supplier<T> work) {
    Future<T> result = threads.submit(work::get);
    try {
      return result.get();
    } catch (InterruptedException e) {
      result.cancel(true);
      Thread.currentThread().interrupt();
      throw new ProblemException(ProblemType.STOPPING, "the service is stopping");
    } catch (ExecutionException e) {
      throw unchecked(e.getCause());
    }
  }

  /** Ends what runs on threads of their own. */
  @PreDestroy
  public void stop() {
    threads.shutdownNow();
  }
}
