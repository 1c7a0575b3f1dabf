package org.mnemex.service.search;

import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/**
 * Limits how many searches compute at once to what the processors can serve. More would not be
 * faster, and everything else would wait behind them.
 */
@Component
class SearchSlots {
  private static final int SEARCHES_A_PROCESSOR = 2;
  private static final int RETRY_SECONDS = 1;

  private final int atOnce = SEARCHES_A_PROCESSOR * Runtime.getRuntime().availableProcessors();
  private final Semaphore slots = new Semaphore(atOnce, true);

  /**
   * Runs a search when a slot is free.
   *
   * @param limitMillis the longest wait
   * @throws ProblemException 503 if none was free in time
   */
  <T> T run(int limitMillis, Supplier<T> work) {
    try {
      if (!slots.tryAcquire(limitMillis, TimeUnit.MILLISECONDS)) {
        throw new ProblemException(
                ProblemType.TOO_BUSY,
                "the limit of %d running searches is reached and %d are waiting; this one could not start within %,d ms"
                    .formatted(atOnce, slots.getQueueLength(), limitMillis))
            .retryAfter(RETRY_SECONDS);
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ProblemException(ProblemType.STOPPING, "the service is stopping");
    }
    try {
      return work.get();
    } finally {
      slots.release();
    }
  }
}
