package org.mnemex.service.record;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.job.JobCancelledException;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.job.StreamedJob;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Imports: pushes of many records, each a job once it has taken a moment. One may come in several
 * portions, each a call that gives the import the same name.
 */
@Component
public class Imports {
  /** A caller that has not sent anything for so long is gone. */
  private static final Duration GONE = Duration.ofMinutes(1);

  private static final int MOST = 100;
  private static final int MAX_NAME = 100;

  private final Jobs jobs;
  private final Clock clock;
  private final Map<List<String>, Import> open = new HashMap<>();

  Imports(Jobs jobs, Clock clock) {
    this.jobs = jobs;
    this.clock = clock;
  }

  /** An import that has not ended, and how much of it has come. */
  private static final class Import {
    private final StreamedJob job;
    private long taken;
    private long refused;
    private volatile Instant seen;

    Import(StreamedJob job, Instant now) {
      this.job = job;
      this.seen = now;
    }
  }

  /** A call of an import. */
  public final class Portion implements AutoCloseable {
    private final Import of;
    private final List<String> key;
    private final boolean last;

    private Portion(Import of, List<String> key, boolean last) {
      this.of = of;
      this.key = key;
      this.last = last;
    }

    /**
     * Tells how many records of this portion have been read.
     *
     * @throws JobCancelledException if somebody cancelled the import
     */
    public void read(long records) {
      of.seen = clock.instant();
      synchronized (of) {
        of.job.done(of.taken + of.refused + records);
      }
    }

    /** The portion has been taken. */
    public void ended(long taken, long refused) {
      synchronized (of) {
        of.taken += taken;
        of.refused += refused;
        if (last) {
          of.job.ended("records taken: %,d, refused: %,d".formatted(of.taken, of.refused));
        }
      }
    }

    /** Forgets the import if nothing more of it will come. */
    @Override
    public void close() {
      if (last) {
        forget(key, of);
      }
    }
  }

  /**
   * Begins a portion of an import.
   *
   * @param name how the caller calls it; null if the portion is all of it
   * @param more whether more portions will come
   * @throws ProblemException if the import was cancelled; or 503 if too many are open
   */
  public synchronized Portion portion(String index, @Nullable String name, boolean more) {
    Instant now = clock.instant();
    if (name == null) {
      return new Portion(
          new Import(jobs.stream(JobKind.IMPORT, index, null), now), List.of(), true);
    }
    List<String> key = List.of(index, name.substring(0, Math.min(MAX_NAME, name.length())));
    Import found = open.get(key);
    if (found == null) {
      if (open.size() >= MOST) {
        throw new ProblemException(
                ProblemType.TOO_BUSY, "%d imports are open already".formatted(MOST))
            .retryAfter((int) GONE.toSeconds());
      }
      found = new Import(jobs.stream(JobKind.IMPORT, index, null), now);
      open.put(key, found);
    }
    Portion portion = new Portion(found, key, !more);
    try {
      portion.read(0);
    } catch (JobCancelledException e) {
      throw new ProblemException(ProblemType.JOB_ENDED, "the import was cancelled");
    }
    return portion;
  }

  private synchronized void forget(List<String> key, Import ended) {
    open.remove(key);
    ended.job.close();
  }

  /** Ends imports whose callers are gone. */
  @Scheduled(fixedDelay = 10, initialDelay = 10, timeUnit = TimeUnit.SECONDS)
  synchronized void endAbandoned() {
    Instant before = clock.instant().minus(GONE);
    open.entrySet().stream()
        .filter(entry -> entry.getValue().seen.isBefore(before))
        .toList()
        .forEach(entry -> forget(entry.getKey(), entry.getValue()));
  }
}
