package org.mnemex.service.install;

import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;

/**
 * Plans and makes changes one after the other, on a thread of its own. A change takes hundreds of
 * steps that wait for a database; among the threads of searches each of them would queue behind all
 * searches that have come in the meantime.
 */
final class ChangeThread implements AutoCloseable {
  private static final long PATIENCE_SECONDS = 10;

  private final ExecutorService thread =
      Executors.newSingleThreadExecutor(Thread.ofPlatform().name("changes").daemon().factory());

  /** Does the work when what was asked before is done, and waits for it. */
  <T> T call(Supplier<T> work) {
    try {
      return thread.submit(work::get).get();
    } catch (InterruptedException e) {
      // It is done nevertheless; only nobody waits for it.
      Thread.currentThread().interrupt();
      throw new IllegalStateException("interrupted while a change was made", e);
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

  /**
   * Lets a change that is being made come to its end, but not for ever: a database may not answer.
   */
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
