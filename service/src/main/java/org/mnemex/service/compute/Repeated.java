package org.mnemex.service.compute;

import java.io.IOException;
import java.time.Duration;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.SupersededException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Does something again and again on a thread of its own, and knows what is wrong with it now. */
public final class Repeated implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Repeated.class);

  private final Work work;
  private final String what;
  private final Supplier<Duration> pause;
  private final Semaphore woken = new Semaphore(0);
  private final Thread thread;
  private volatile boolean isStopped;
  private volatile @Nullable String problem;

  /** What is done. */
  @FunctionalInterface
  public interface Work {
    /**
     * Does it once.
     *
     * @return whether there was something to do; if not, nothing is known of whether it works
     * @throws SupersededException to stop for good
     * @throws IOException to try again later
     */
    boolean run() throws IOException;
  }

  /**
   * Begins.
   *
   * @param what is done, in one word, such as {@code following}
   * @param pause how long to wait before the next time, asked each time
   */
  public Repeated(String what, Supplier<Duration> pause, Work work) {
    this.what = what;
    this.pause = pause;
    this.work = work;
    this.thread = Thread.ofPlatform().daemon().name(what).start(this::run);
  }

  private void run() {
    boolean isOver = false;
    try {
      while (!isOver && !isStopped) {
        woken.drainPermits();
        isOver = runOnce();
        if (!isOver && woken.tryAcquire(pause.get().toMillis(), TimeUnit.MILLISECONDS)) {
          LOG.trace("{} was woken", what);
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private boolean runOnce() {
    try {
      if (work.run() && problem != null) {
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
    if (!other.equals(problem) && !isStopped) {
      LOG.error("{} has stopped: {}", what, other, unexpected);
    }
    problem = other;
  }

  /** Does it again at once, or once more if it is being done. */
  public void wake() {
    woken.release();
  }

  /** Why it does not work now, or null. */
  public @Nullable String problem() {
    return problem;
  }

  /** Ends the thread and waits for that. */
  @Override
  public void close() {
    isStopped = true;
    thread.interrupt();
    try {
      thread.join();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }
}
