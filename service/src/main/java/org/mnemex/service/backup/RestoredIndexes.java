package org.mnemex.service.backup;

import java.io.IOException;
import java.time.Clock;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.RestoredData;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.status.Indexes.EditionStatus;
import org.mnemex.service.status.Indexes.IndexStatus;
import org.mnemex.sync.feed.FeedStatus.Phase;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * After a restore, watches what becomes of each index: it goes on from its position in the backup,
 * or is filled again because the source no longer has what came after it. Told as a job.
 */
@Component
class RestoredIndexes {
  private static final Logger LOG = LoggerFactory.getLogger(RestoredIndexes.class);

  private static final String GOES_ON = "goes on from its position in the backup";

  private final RestoredData restored;
  private final Jobs jobs;
  private final Indexes indexes;
  private final Clock clock;
  private final Map<String, Watched> watched = new TreeMap<>();
  private @Nullable Long job;

  /**
   * What is known of an index.
   *
   * @param problem why it does not run, or null
   * @param lost why its position is of no use, or null
   * @param end how it ended, or null
   */
  private record Watched(@Nullable String problem, @Nullable String lost, @Nullable String end) {
    static final Watched NOTHING = new Watched(null, null, null);

    Watched(@Nullable String lost, @Nullable String end) {
      this(null, lost, end);
    }
  }

  RestoredIndexes(RestoredData restored, Jobs jobs, Indexes indexes, Clock clock) {
    this.restored = restored;
    this.jobs = jobs;
    this.indexes = indexes;
    this.clock = clock;
  }

  @Scheduled(fixedDelay = 1, timeUnit = TimeUnit.SECONDS)
  void look() {
    RestoredData.Mark mark = restored.mark();
    if (mark == null) {
      return;
    }
    try {
      look(mark);
    } catch (IOException | RuntimeException e) {
      // A full disk: it is told when there is room again.
      LOG.debug("the restore is not told yet", e);
    }
  }

  private void look(RestoredData.Mark mark) throws IOException {
    List<IndexStatus> all = indexes.all();
    Map<String, Integer> last = Objects.requireNonNullElse(mark.editions(), Map.of());
    Long id = job;
    if (id == null) {
      id = jobs.watch(JobKind.RESTORE, "everything", mark.backup(), clock.instant().toString());
      job = id;
    }
    watched.keySet().retainAll(all.stream().map(IndexStatus::name).collect(Collectors.toSet()));
    for (IndexStatus index : all) {
      Watched before = watched.getOrDefault(index.name(), Watched.NOTHING);
      Watched now =
          before.end == null ? seen(index, last.getOrDefault(index.name(), 0), before) : before;
      if (now.problem != null && !now.problem.equals(before.problem)) {
        jobs.say(id, "index '%s' waits: %s".formatted(index.name(), now.problem));
      }
      if (now.lost != null && before.lost == null) {
        jobs.say(id, "index '%s' is filled again: %s".formatted(index.name(), now.lost));
      }
      if (now.end != null && before.end == null) {
        jobs.say(id, "index '%s' %s".formatted(index.name(), now.end));
      }
      watched.put(index.name(), now);
    }
    long over = watched.values().stream().filter(one -> one.end != null).count();
    jobs.at(id, over, watched.size());
    if (over == watched.size()) {
      long again = watched.values().stream().filter(one -> one.lost != null).count();
      // One that is paused or waits for somebody has done neither.
      long wentOn = watched.values().stream().filter(one -> GOES_ON.equals(one.end)).count();
      String message =
          "backup of %s: %d of %d indexes went on from there, %d were filled again"
              .formatted(mark.taken(), wentOn, over, again);
      restored.isOver();
      jobs.ended(id, true, message);
      LOG.info("restored the {}", message);
    }
  }

  private static Watched seen(IndexStatus index, int last, Watched before) {
    EditionStatus live = index.live();
    if (live == null) {
      return new Watched(index.problem(), before.lost, before.end);
    }
    if (live.number() > last) {
      String lost = before.lost == null ? "its position was of no use any more" : before.lost;
      return new Watched(lost, "is filled again, and answers");
    }
    if (live.phase() == Phase.LOST || live.damage() != null) {
      String why = live.damage() == null ? live.problem() : live.damage();
      return new Watched(Objects.requireNonNullElse(why, "its position is lost"), null);
    }
    if (index.paused()) {
      return new Watched(before.lost, "is paused, as it was");
    }
    if (live.phase() == Phase.HELD) {
      return new Watched(before.lost, "waits for somebody: " + live.problem());
    }
    return index.fresh() && live.phase() == Phase.LIVE ? new Watched(null, GOES_ON) : before;
  }
}
