package org.mnemex.sync.edition;

import java.io.UncheckedIOException;
import java.time.Duration;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The thread that carries out the transitions of an index, one after the other. */
final class TransitionThread {
  private static final Logger LOG = LoggerFactory.getLogger(TransitionThread.class);

  /** The pause between retries of a failed write. */
  static final Duration TRY_AGAIN = Duration.ofSeconds(2);

  private final ScheduledExecutorService thread;
  private final Supplier<String> index;

  /**
   * @param name of the thread
   * @param index the current name of the index, for messages
   */
  TransitionThread(String name, Supplier<String> index) {
    this.index = index;
    this.thread =
        Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().name(name).daemon().factory());
  }

  /** Repeats an action, with a pause after each run. */
  void every(Duration pause, Runnable work) {
    var _ =
        thread.scheduleWithFixedDelay(
            work, pause.toMillis(), pause.toMillis(), TimeUnit.MILLISECONDS);
  }

  /** Runs an action after a pause, and retries until its writes succeed. */
  void later(Duration pause, Runnable work) {
    try {
      var _ = thread.schedule(() -> retryUntilSaved(work), pause.toMillis(), TimeUnit.MILLISECONDS);
    } catch (RejectedExecutionException _) {
      LOG.debug("index '{}' is being closed", index.get());
    }
  }

  private void retryUntilSaved(Runnable work) {
    try {
      work.run();
    } catch (UncheckedIOException e) {
      LOG.warn("index '{}': {}; trying again", index.get(), e.getMessage());
      later(TRY_AGAIN, work);
    } catch (RuntimeException | Error e) {
      LOG.error("index '{}': a change of its editions failed; retrying", index.get(), e);
      later(TRY_AGAIN, work);
    }
  }

  /** Stops the thread and drops pending work. */
  void stop() {
    thread.shutdownNow();
  }
}
