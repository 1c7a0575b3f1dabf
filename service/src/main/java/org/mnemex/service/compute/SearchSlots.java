package org.mnemex.service.compute;

import jakarta.annotation.PreDestroy;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/**
 * Limits how many searches compute at once to what the processors can serve: more would not be
 * faster. They compute on threads of their own, so that health and administration never wait for
 * them, and only so many may wait for a slot.
 */
@Component
public class SearchSlots {
  private static final int SEARCHES_A_PROCESSOR = 1;
  private static final int MAX_WAITING_A_SLOT = 32;

  /** When to try again, in seconds. */
  public static final int RETRY_SECONDS = 1;

  private final int atOnce = SEARCHES_A_PROCESSOR * Runtime.getRuntime().availableProcessors();
  private final int maxWaiting = MAX_WAITING_A_SLOT * atOnce;
  private final Semaphore slots = new Semaphore(atOnce, true);
  private final ExecutorService threads =
      Executors.newFixedThreadPool(
          atOnce, Thread.ofPlatform().daemon().name("search-", 0).factory());

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
      return compute(work);
    } finally {
      slots.release();
    }
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

  private <T> T compute(Supplier<T> work) {
    Future<T> result = threads.submit(work::get);
    try {
      return result.get();
    } catch (InterruptedException e) {
      result.cancel(true);
      Thread.currentThread().interrupt();
      throw new ProblemException(ProblemType.STOPPING, "the service is stopping");
    } catch (ExecutionException e) {
      if (e.getCause() instanceof Error error) {
        throw error;
      }
      throw e.getCause() instanceof RuntimeException known ? known : new IllegalStateException(e);
    }
  }

  @PreDestroy
  void stop() {
    threads.shutdownNow();
  }
}
