package org.mnemex.service.job;

import java.time.Duration;
import java.util.function.LongConsumer;
import org.jspecify.annotations.Nullable;

/**
 * What streams to or from a caller, by one thread. It becomes a job once it has taken a moment, so
 * that short calls, of which there may be many a second, do not fill the list.
 */
public final class StreamedJob implements AutoCloseable {
  private static final long MOMENT_NANOS = Duration.ofSeconds(2).toNanos();

  private final Jobs jobs;
  private final String about;
  private final @Nullable Long total;
  private final String started;
  private final long startNanos = System.nanoTime();
  private final RunningJob job;
  private @Nullable Long id;

  StreamedJob(Jobs jobs, JobKind kind, String about, @Nullable Long total, String started) {
    this.jobs = jobs;
    this.about = about;
    this.total = total;
    this.started = started;
    this.job = new RunningJob(kind, startNanos);
  }

  /**
   * Tells how many records have passed.
   *
   * @throws JobCancelledException if somebody cancelled it
   */
  public void done(long records) {
    job.at(records, total);
    if (job.isCancelled()) {
      over(jobs::cancelled);
      throw new JobCancelledException();
    }
    if (id == null && System.nanoTime() - startNanos > MOMENT_NANOS) {
      id = jobs.watch(job, about, "over HTTP", started);
    }
  }

  /** It ended well, unless it was cancelled. */
  public void ended(String message) {
    over(number -> jobs.ended(number, true, message));
  }

  /** If it has not ended: the caller is gone, or something failed. */
  @Override
  public void close() {
    over(number -> jobs.ended(number, false, "it ended before everything had passed"));
  }

  private void over(LongConsumer told) {
    if (id != null) {
      told.accept(id);
      id = null;
    }
  }
}
