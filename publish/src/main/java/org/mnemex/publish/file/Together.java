package org.mnemex.publish.file;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicBoolean;

/** Transfers a few parts at a time. */
final class Together implements AutoCloseable {
  /** Each holds a part in memory. */
  private static final int AT_ONCE = 4;

  private final ExecutorService threads;

  Together(String name) {
    this.threads =
        Executors.newFixedThreadPool(AT_ONCE, Thread.ofPlatform().daemon().name(name, 0).factory());
  }

  /** A transfer. */
  interface Transfer {
    void run() throws IOException;
  }

  /**
   * Runs all, or ends with the first that fails; those that have begun are waited for.
   *
   * @throws IOException what the first failure threw
   */
  void run(List<Transfer> transfers) throws IOException {
    AtomicBoolean failed = new AtomicBoolean();
    List<Future<?>> running = new ArrayList<>();
    transfers.forEach(
        one ->
            running.add(
                threads.submit(
                    () -> {
                      if (!failed.get()) {
                        one.run();
                      }
                      return null;
                    })));
    IOException failure = null;
    for (Future<?> one : running) {
      try {
        one.get();
      } catch (ExecutionException e) {
        failed.set(true);
        failure = failure == null ? failure(e.getCause()) : failure;
      } catch (InterruptedException e) {
        running.forEach(other -> other.cancel(true));
        Thread.currentThread().interrupt();
        throw new InterruptedIOException("interrupted while transferring files");
      }
    }
    if (failure != null) {
      throw failure;
    }
  }

  private static IOException failure(Throwable cause) {
    return cause instanceof IOException io ? io : new IOException(cause.toString(), cause);
  }

  @Override
  public void close() {
    threads.shutdownNow();
  }
}
