package org.mnemex.service.care;

import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.CancellationException;
import java.util.concurrent.TimeUnit;
import org.mnemex.engine.inspect.EditionSizes;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.service.job.JobFailedException;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.job.JobWork;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.definition.CompactPlan;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/** Compacts live editions, as jobs, one at a time. */
@Component
class Compactions {
  private static final Logger LOG = LoggerFactory.getLogger(Compactions.class);

  private final Indexes indexes;
  private final Jobs jobs;
  private final Clock clock;

  /** The number of the job, by index. */
  private final Map<String, Long> running = new HashMap<>();

  /** When one was begun by itself, by index: one that fails is not tried again the same night. */
  private final Map<String, Instant> scheduled = new HashMap<>();

  Compactions(Indexes indexes, Jobs jobs, Clock clock) {
    this.indexes = indexes;
    this.jobs = jobs;
    this.clock = clock;
  }

  /**
   * What a compaction has done.
   *
   * @param documents number of documents that were copied
   * @param segmentsBefore number of segments before
   * @param bytesBefore size before, in bytes
   * @param bytesAfter size afterwards, in bytes
   */
  record Compacted(int documents, int segmentsBefore, long bytesBefore, long bytesAfter) {
    String told() {
      return documents == 0
          ? "there was nothing to compact"
          : "%,d segments of %s became one of %s"
              .formatted(segmentsBefore, megabytes(bytesBefore), megabytes(bytesAfter));
    }
  }

  /**
   * Begins to compact the live edition of an index, unless that is being done.
   *
   * @return the number of the job
   * @throws ProblemException if there is no such index
   */
  synchronized long begin(String index) {
    Edition live = indexes.live(index);
    Long begun = running.get(index);
    if (begun != null) {
      return begun;
    }
    long job =
        jobs.begin(
            JobKind.COMPACT,
            index,
            "edition " + live.number(),
            progress -> {
              try {
                return compact(live, progress);
              } finally {
                ended(index);
              }
            });
    running.put(index, job);
    return job;
  }

  private synchronized void ended(String index) {
    running.remove(index);
  }

  private static JobWork.Outcome compact(Edition live, JobProgress progress)
      throws JobFailedException, InterruptedException {
    progress.done(0);
    Snapshot before = live.folder().snapshot();
    EditionSizes sizes = live.read(() -> EditionSizes.of(before));
    long needed = sizes.bytes() - sizes.deletedBytes();
    progress.total(needed);
    try {
      long free = live.freeBytes();
      if (free < needed) {
        throw new JobFailedException(
            "the new segment needs about %s beside the old ones, and %s of the disk are free"
                .formatted(megabytes(needed), megabytes(free)));
      }
      int documents = live.compact(progress::done);
      Compacted result =
          new Compacted(
              documents, before.segments().size(), sizes.bytes(), live.folder().snapshot().bytes());
      return new JobWork.Outcome(result.told(), result);
    } catch (IOException e) {
      throw new JobFailedException("it cannot be written: " + e.getMessage(), e);
    } catch (CancellationException e) {
      throw new JobFailedException("edition %d is gone".formatted(live.number()), e);
    }
  }

  private static String megabytes(long bytes) {
    return "%.1f MB".formatted(bytes / 1e6);
  }

  /** Begins what definitions ask for. */
  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.MINUTES)
  void beginDue() {
    Instant now = clock.instant();
    scheduled.values().removeIf(begun -> begun.isBefore(now.minus(CompactPlan.WINDOW)));
    for (IndexDefinition index : indexes.definitions()) {
      CompactPlan plan = index.compact();
      if (plan == null || !plan.isTime(now) || scheduled.containsKey(index.name())) {
        continue;
      }
      try {
        Snapshot snapshot = indexes.snapshot(index.name());
        long deleted = EditionSizes.of(snapshot).deleted();
        if (deleted > plan.deleted() * (snapshot.documents() + deleted)) {
          begin(index.name());
          scheduled.put(index.name(), now);
        }
      } catch (RuntimeException e) {
        LOG.debug("index '{}' is not compacted yet: {}", index.name(), e.getMessage());
      }
    }
  }
}
