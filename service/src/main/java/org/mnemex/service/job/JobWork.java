package org.mnemex.service.job;

import org.jspecify.annotations.Nullable;

/** The work of a job, done by a thread of its own. */
@FunctionalInterface
public interface JobWork {
  /**
   * How a job ended well.
   *
   * @param message in a sentence
   * @param result what it found, written as JSON; or null
   */
  record Outcome(String message, @Nullable Object result) {}

  /**
   * Does it.
   *
   * @throws JobFailedException if it cannot be done, with the reason
   * @throws InterruptedException if the service stops
   */
  Outcome run(JobProgress progress) throws JobFailedException, InterruptedException;
}
