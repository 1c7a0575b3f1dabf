package org.mnemex.service.install;

import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;

/**
 * Plans and applies changes one at a time on its own thread. A change waits for a database hundreds
 * of times; on the threads of searches, each wait would end at the back of the queue.
 */
final class ChangeThread implements AutoCloseable {
  private static final long PATIENCE_SECONDS = 10;

  private final ExecutorService thread =
      Executors.newSingleThreadExecutor(Thread.ofPlatform().name("changes").daemon().factory());

  /** Runs the work after earlier work, and waits for its result. */
  <T> T call(Supplier<T> work) {
    try {
      return thread.submit(work::get).get();
    } catch (InterruptedException e) {
      // The work still runs; the caller just stops waiting.
      Thread.currentThread().interrupt();
      throw new IllegalStateException("interrupted during a change", e);
    } catch (ExecutionException e) {
      if (e.getCause() instanceof RuntimeException cause) {
        throw cause;
      }
      if (e.getCause() instanceof Error cause) {
        throw cause;
      }
      throw new IllegalStateException(e.getCause());
    }
  }

  /** Lets a running change finish, within a limit: a database may not answer. */
  @Override
  public void close() {
    thread.shutdown();
    try {
      if (thread.awaitTermination(PATIENCE_SECONDS, TimeUnit.SECONDS)) {
        return;
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
    thread.shutdownNow();
  }
}
