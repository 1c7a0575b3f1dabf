package org.mnemex.service.status;

import java.time.Clock;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.store.JobMapper.JobRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Lists editions that are being filled among the jobs. Their feeds fill them, and go on after a
 * restart, so this only watches.
 */
@Component
class FilledEditions {
  private static final Logger LOG = LoggerFactory.getLogger(FilledEditions.class);

  private final Jobs jobs;
  private final Indexes indexes;
  private final Clock clock;
  private @Nullable Map<Filled, Long> known;

  /**
   * Editions that were there when we looked last; renaming their index does not fill them again.
   */
  private final Set<Seen> seen = new HashSet<>();

  /** A fill, by what is told of it. */
  private record Filled(String index, String detail) {}

  /** An edition, by how its index is kept. */
  private record Seen(String keptAs, int number) {}

  FilledEditions(Jobs jobs, Indexes indexes, Clock clock) {
    this.jobs = jobs;
    this.indexes = indexes;
    this.clock = clock;
  }

  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.SECONDS)
  void look() {
    try {
      compare();
    } catch (RuntimeException e) {
      // A full disk: they are listed when there is room again.
      LOG.debug("fills are not listed yet", e);
    }
  }

  private void compare() {
    Map<Filled, Long> watched = known;
    boolean isFirst = watched == null;
    if (watched == null) {
      watched =
          jobs.resumed(JobKind.FILL).stream()
              .collect(
                  Collectors.toMap(
                      row -> new Filled(row.about(), row.detail()),
                      JobRow::id,
                      (first, second) -> second,
                      HashMap::new));
      known = watched;
    }
    Map<Filled, Indexes.Built> filling = new HashMap<>();
    Map<Filled, Indexes.Built> there = new HashMap<>();
    Set<Seen> built = new HashSet<>();
    for (Indexes.Built edition : indexes.built()) {
      Filled filled = new Filled(edition.index(), detail(edition));
      there.put(filled, edition);
      Seen one = new Seen(edition.keptAs(), edition.number());
      built.add(one);
      if (edition.state().equals("filling")) {
        filling.put(filled, edition);
      } else if (!isFirst && !seen.contains(one) && !watched.containsKey(filled)) {
        // It was filled between two looks.
        watched.put(filled, begin(filled));
      }
    }
    for (Map.Entry<Filled, Indexes.Built> one : filling.entrySet()) {
      Filled filled = one.getKey();
      long id = watched.computeIfAbsent(filled, this::begin);
      jobs.at(id, one.getValue().done(), one.getValue().expected());
    }
    for (Filled over : Set.copyOf(watched.keySet())) {
      if (!filling.containsKey(over)) {
        Indexes.Built edition = there.get(over);
        Long id = watched.remove(over);
        if (edition != null) {
          jobs.at(id, edition.documents(), edition.documents());
        }
        jobs.ended(id, edition != null, end(edition));
      }
    }
    seen.clear();
    seen.addAll(built);
  }

  private long begin(Filled filled) {
    return jobs.watch(JobKind.FILL, filled.index, filled.detail, clock.instant().toString());
  }

  private static String end(Indexes.@Nullable Built edition) {
    if (edition == null) {
      return "the edition was given up";
    }
    return "%,d %s; the edition is %s"
        .formatted(
            edition.documents(),
            edition.documents() == 1 ? "document" : "documents",
            edition.state().equals("ready") ? "ready and waits for approval" : edition.state());
  }

  private static String detail(Indexes.Built edition) {
    return "edition %d from %s"
        .formatted(edition.number(), edition.fromStored() ? "stored records" : "the database");
  }
}
