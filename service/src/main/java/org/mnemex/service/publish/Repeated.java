package org.mnemex.service.publish;

import java.io.IOException;
import java.time.Duration;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.SupersededException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Does something again and again on a thread of its own, and knows what is wrong with it now. */
final class Repeated implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Repeated.class);

  private final Work work;
  private final String what;
  private final Duration every;
  private final CountDownLatch stopped = new CountDownLatch(1);
  private final Thread thread;
  private volatile @Nullable String problem;

  /** What is done. */
  interface Work {
    /**
     * Does it once.
     *
     * @throws SupersededException to stop for good
     * @throws IOException to try again later
     */
    void run() throws IOException;
  }

  /**
   * Begins.
   *
   * @param what is done, in one word, such as {@code following}
   */
  Repeated(String what, Duration every, Work work) {
    this.what = what;
    this.every = every;
    this.work = work;
    this.thread = Thread.ofPlatform().daemon().name(what).start(this::run);
  }

  private void run() {
    boolean isOver = false;
    try {
      do {
        isOver = runOnce();
      } while (!isOver && !stopped.await(every.toMillis(), TimeUnit.MILLISECONDS));
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private boolean runOnce() {
    try {
      work.run();
      if (problem != null) {
        LOG.info("{} goes on", what);
        problem = null;
      }
      return false;
    } catch (SupersededException e) {
      note(String.valueOf(e.getMessage()), null);
      return true;
    } catch (IOException e) {
      note(String.valueOf(e.getMessage()), null);
    } catch (RuntimeException e) {
      note(e.toString(), e);
    }
    return false;
  }

  private void note(String other, @Nullable RuntimeException unexpected) {
    if (!other.equals(problem) && stopped.getCount() > 0) {
      LOG.error("{} has stopped: {}", what, other, unexpected);
    }
    problem = other;
  }

  /** Why it does not work now, or null. */
  @Nullable String problem() {
    return problem;
  }

  /** Ends the thread and waits for that. */
  @Override
  public void close() {
    stopped.countDown();
    thread.interrupt();
    try {
      thread.join();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }
}
