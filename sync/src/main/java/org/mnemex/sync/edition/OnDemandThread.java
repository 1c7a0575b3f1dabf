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

  /** Waits for all of them. */
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
   * Runs work after what is already waiting.
   *
   * @return false if no more is run
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

  /** Drops what waits; what runs goes on. */
  void stop() {
    thread.getQueue().clear();
    thread.shutdown();
  }

  /** Drops what waits, and interrupts what runs. */
  void interrupt() {
    thread.shutdownNow();
  }

  /**
   * Waits, once it is stopped, for what runs.
   *
   * @param wait for how long; zero for no limit
   * @return whether it has ended
   */
  boolean hasEnded(Duration wait) throws InterruptedException {
    long millis = wait.isZero() ? Long.MAX_VALUE : wait.toMillis();
    return thread.awaitTermination(millis, TimeUnit.MILLISECONDS);
  }
}
