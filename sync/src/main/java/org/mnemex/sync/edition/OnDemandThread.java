package org.mnemex.sync.edition;

import java.time.Duration;
import java.util.concurrent.Executors;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;

/**
 * Runs work one after the other, on a thread that exists only while there is some: most indexes
 * rest most of the time, and there may be many.
 */
final class OnDemandThread {
  private static final long KEPT_SECONDS = 2;

  /** Starts delayed work of all these threads. */
  private static final ScheduledExecutorService TIMER =
      Executors.newSingleThreadScheduledExecutor(
          Thread.ofPlatform().name("editions-timer").daemon().factory());

  private final ThreadPoolExecutor thread;

  OnDemandThread(String name) {
    thread =
        new ThreadPoolExecutor(
            1,
            1,
            KEPT_SECONDS,
            TimeUnit.SECONDS,
            new LinkedBlockingQueue<>(),
            Thread.ofPlatform().name(name).daemon().factory());
    thread.allowCoreThreadTimeOut(true);
  }

  /**
   * Runs work after all work that is already waiting.
   *
   * @return false if the thread was stopped
   */
  boolean run(Runnable work) {
    try {
      thread.execute(work);
      return true;
    } catch (RejectedExecutionException _) {
      return false;
    }
  }

  /** Runs work after a pause, unless the thread is stopped by then. */
  void runAfter(Duration pause, Runnable work) {
    if (pause.isZero()) {
      run(work);
    } else {
      var _ = TIMER.schedule(() -> run(work), pause.toMillis(), TimeUnit.MILLISECONDS);
    }
  }

  /** Discards waiting work and lets the current work finish. */
  void stop() {
    thread.getQueue().clear();
    thread.shutdown();
  }

  /** Discards waiting work and interrupts the current work. */
  void interrupt() {
    thread.shutdownNow();
  }

  /**
   * Waits for the current work to finish, after {@link #stop} or {@link #interrupt}.
   *
   * @param wait the longest time to wait; zero for no limit
   * @return whether it has finished
   */
  boolean hasEnded(Duration wait) throws InterruptedException {
    long millis = wait.isZero() ? Long.MAX_VALUE : wait.toMillis();
    return thread.awaitTermination(millis, TimeUnit.MILLISECONDS);
  }
}
