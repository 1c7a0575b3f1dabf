package org.mnemex.service.job;

import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** The progress of a job that has not ended. */
final class RunningJob {
  private final JobKind kind;
  private final long startNanos;
  private volatile boolean isCancelled;
  private volatile @Nullable Long total;
  private volatile long done;

  /** A moment of it. */
  record Moment(long done, @Nullable Long total, @Nullable Double perSecond, @Nullable Long left) {}

  RunningJob(JobKind kind) {
    this(kind, System.nanoTime());
  }

  /**
   * A job that began before.
   *
   * @param startNanos when, by {@link System#nanoTime}
   */
  RunningJob(JobKind kind, long startNanos) {
    this.kind = kind;
    this.startNanos = startNanos;
  }

  JobKind kind() {
    return kind;
  }

  /** How long it has been running, in nanoseconds. */
  long nanos() {
    return System.nanoTime() - startNanos;
  }

  void cancel() {
    isCancelled = true;
  }

  boolean isCancelled() {
    return isCancelled;
  }

  void at(long amount, @Nullable Long of) {
    done = amount;
    total = of;
  }

  long done() {
    return done;
  }

  @Nullable Long total() {
    return total;
  }

  Moment moment() {
    long now = done;
    Long of = total;
    double seconds = nanos() / 1e9;
    if (now == 0) {
      return new Moment(now, of, null, null);
    }
    double perSecond = now / seconds;
    return new Moment(
        now, of, perSecond, of == null ? null : Math.round(Math.max(0, of - now) / perSecond));
  }

  /** Lets the work of the job tell how far it is. */
  JobProgress progress(Consumer<String> said) {
    return new JobProgress() {
      @Override
      public void total(long amount) {
        at(done, amount);
      }

      @Override
      public void done(long amount) {
        if (isCancelled) {
          throw new JobCancelledException();
        }
        at(amount, total);
      }

      @Override
      public void say(String line) {
        said.accept(line);
      }
    };
  }
}
