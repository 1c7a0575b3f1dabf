package org.mnemex.service.compute;

import java.time.Duration;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.beans.factory.DisposableBean;
import org.springframework.stereotype.Component;

/**
 * Runs calls on callers' definitions, and calls that consist of many searches: a few at a time, to
 * bound memory, and each within a time limit. A call that takes longer is interrupted and answered;
 * its database statements end at the database's own limit.
 */
@Component
public class BoundedCalls implements DisposableBean {
  /** Running at once; a definition and its checks take at most some megabytes. */
  private static final int AT_ONCE = 4;

  private static final int WAITING = 32;
  private static final Duration LIMIT = Duration.ofSeconds(20);
  private static final Duration LIMIT_OF_MANY = Duration.ofMinutes(1);
  private static final int RETRY_SECONDS = 5;

  private final Duration limit;
  private final ThreadPoolExecutor threads;

  public BoundedCalls() {
    this(AT_ONCE, WAITING, LIMIT);
  }

  BoundedCalls(int atOnce, int waiting, Duration limit) {
    this.limit = limit;
    this.threads =
        new ThreadPoolExecutor(
            atOnce,
            atOnce,
            1,
            TimeUnit.MINUTES,
            new ArrayBlockingQueue<>(waiting),
            Thread.ofPlatform().daemon().name("call-", 0).factory());
    threads.allowCoreThreadTimeOut(true);
  }

  /**
   * Does the work of a call within the usual limit.
   *
   * @param what the call does, for the refusal: {@code "checking definitions"}
   * @throws ProblemException 503 if it takes too long or too many calls are waiting
   */
  public <T> T run(String what, Callable<T> work) {
    return run(what, limit, work);
  }

  /**
   * Does the work of a call that consists of many searches, within {@link #LIMIT_OF_MANY}.
   *
   * @param what the call does, for the refusal: {@code "comparing editions"}
   * @throws ProblemException 503 if it takes too long or too many calls are waiting
   */
  public <T> T runMany(String what, Callable<T> work) {
    return run(what, LIMIT_OF_MANY, work);
  }

  private <T> T run(String what, Duration limit, Callable<T> work) {
    Future<T> future;
    try {
      future = threads.submit(work);
    } catch (RejectedExecutionException e) {
      throw unavailable(
          ProblemType.TOO_BUSY,
          "%s could not start: the limits of %d running and %d waiting calls of this kind are reached"
              .formatted(what, threads.getMaximumPoolSize(), threads.getQueue().size()));
    }
    try {
      return future.get(limit.toMillis(), TimeUnit.MILLISECONDS);
    } catch (TimeoutException e) {
      future.cancel(true);
      threads.purge();
      throw unavailable(
          ProblemType.TOO_SLOW,
          "%s took longer than %d s and was cancelled; ask for less at a time, or try again when the service or its database is less busy"
              .formatted(what, limit.toSeconds()));
    } catch (InterruptedException e) {
      future.cancel(true);
      Thread.currentThread().interrupt();
      throw unavailable(ProblemType.STOPPING, "the service is stopping");
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case RuntimeException problem -> throw problem;
        case Error error -> throw error;
        case null, default -> throw new IllegalStateException(e.getCause());
      }
    }
  }

  private static ProblemException unavailable(ProblemType type, String detail) {
    return new ProblemException(type, detail).retryAfter(RETRY_SECONDS);
  }

  @Override
  public void destroy() {
    threads.shutdownNow();
  }
}
