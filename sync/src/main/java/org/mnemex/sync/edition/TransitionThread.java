package org.mnemex.sync.edition;

import java.io.UncheckedIOException;
import java.time.Duration;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The thread that carries out the transitions of an index, one after the other. */
final class TransitionThread {
  private static final Logger LOG = LoggerFactory.getLogger(TransitionThread.class);

  /** The pause between retries of a failed write. */
  static final Duration TRY_AGAIN = Duration.ofSeconds(2);

  private final OnDemandThread thread;
  private final Supplier<String> index;

  /**
   * @param name of the thread
   * @param index the current name of the index, for messages
   */
  TransitionThread(String name, Supplier<String> index) {
    this.index = index;
    this.thread = new OnDemandThread(name);
  }

  /** Runs an action after a pause, and retries until its writes succeed. */
  void later(Duration pause, Runnable work) {
    thread.runAfter(pause, () -> retryUntilSaved(work));
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
    thread.interrupt();
  }
}
