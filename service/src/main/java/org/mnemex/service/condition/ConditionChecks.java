package org.mnemex.service.condition;

import io.micrometer.core.instrument.MeterRegistry;
import java.io.IOException;
import java.nio.file.FileStore;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.node.NodeView;
import org.mnemex.service.node.SearchNodes;
import org.mnemex.service.publish.Following;
import org.mnemex.service.publish.Publications;
import org.mnemex.service.status.Audits;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.status.Indexes.EditionStatus;
import org.mnemex.service.status.Indexes.IndexStatus;
import org.mnemex.sync.feed.FeedStatus.Phase;
import org.mnemex.sync.source.SourceReader;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Looks at everything that could be a condition. Used by one thread. */
@Component
class ConditionChecks {
  private static final Logger LOG = LoggerFactory.getLogger(ConditionChecks.class);
  private static final double PERCENT = 100;

  /** The last bucket of the meter of searches, in milliseconds. */
  private static final double LONGEST_KNOWN = 10_000;

  private final Indexes indexes;
  private final Audits audits;
  private final Publications publications;
  private final Following following;
  private final SearchNodes nodes;
  private final ConditionSettings limits;
  private final Path data;
  private final SearchWindow searches;

  ConditionChecks(
      Indexes indexes,
      Audits audits,
      Publications publications,
      Following following,
      SearchNodes nodes,
      ConditionSettings limits,
      MnemexSettings settings,
      MeterRegistry registry) {
    this.indexes = indexes;
    this.audits = audits;
    this.publications = publications;
    this.following = following;
    this.nodes = nodes;
    this.limits = limits;
    this.data = settings.data();
    this.searches = new SearchWindow(registry);
  }

  /** Everything as it is now. */
  List<Look> look(Instant now) {
    List<Look> looks = new ArrayList<>();
    List<IndexStatus> all = indexes.all();
    Set<String> away = sources(all, looks);
    for (IndexStatus index : all) {
      look(index, away.contains(index.source()), looks);
    }
    store(looks);
    nodes(looks);
    disk(looks);
    searches(now, looks);
    return looks;
  }

  /** Looks at sources; those that cannot be reached. */
  private Set<String> sources(List<IndexStatus> all, List<Look> looks) {
    Set<String> away = new HashSet<>();
    Set<String> sources = new TreeSet<>();
    for (IndexStatus index : all) {
      EditionStatus edition = index.live() == null ? index.next() : index.live();
      if (edition == null) {
        continue;
      }
      sources.add(index.source());
      if (edition.phase() == Phase.WAITING && away.add(index.source())) {
        looks.add(
            Look.whether(
                isSet(limits.away()),
                Condition.AWAY,
                index.source(),
                limits.away(),
                "source '%s' cannot be reached: %s. Searches use what is indexed"
                    .formatted(index.source(), edition.problem())));
      }
    }
    sources.removeAll(away);
    sources.forEach(
        source -> looks.add(Look.whether(false, Condition.AWAY, source, limits.away(), "")));
    return away;
  }

  private static boolean isSet(Duration limit) {
    return !limit.isZero();
  }

  private void look(IndexStatus index, boolean away, List<Look> looks) {
    String name = index.name();
    EditionStatus live = index.live();
    boolean runs = index.problem() == null || live != null;
    looks.add(
        Look.whether(
            isSet(limits.stopped()) && !runs,
            Condition.NOT_RUNNING,
            name,
            limits.stopped(),
            "index '%s' does not answer: %s".formatted(name, index.problem())));
    if (live == null) {
      return;
    }
    boolean stopped =
        live.damage() != null
            || live.phase() == Phase.FAILED
            || live.phase() == Phase.STOPPED
            || live.phase() == Phase.LOST;
    looks.add(
        Look.whether(
            isSet(limits.stopped()) && stopped,
            Condition.STOPPED,
            name,
            limits.stopped(),
            "index '%s' no longer follows its source: %s"
                .formatted(name, live.damage() == null ? live.problem() : live.damage())));
    boolean held = live.phase() == Phase.HELD;
    looks.add(
        Look.whether(
            held,
            Condition.HELD,
            name,
            Duration.ZERO,
            "index '%s' waits for somebody: %s".formatted(name, live.problem())));
    boolean told = stopped || held || away || index.paused();
    looks.add(
        Look.whether(
            isSet(limits.behind()) && !index.fresh() && !told,
            Condition.BEHIND,
            name,
            limits.behind(),
            "index '%s' is behind its source, true as of %s".formatted(name, live.trueAt())));
    looks.add(
        Look.whether(
            isSet(limits.waiting()) && index.held() != null && index.next() != null,
            Condition.WAITING,
            name,
            limits.waiting(),
            "an edition of index '%s' waits for approval: %s".formatted(name, index.held())));
    looks.add(
        Look.above(
            (double) live.quarantined(),
            (double) limits.quarantine(),
            Condition.QUARANTINE,
            name,
            "records of index '%s' in quarantine: %,d; 'mnemex quarantine -i %s' lists them"
                .formatted(name, live.quarantined(), name)));
    retained(name, looks);
    Audits.AuditView audit = audits.last(name);
    looks.add(
        Look.whether(
            audit != null && Boolean.FALSE.equals(audit.clean()),
            Condition.DIFFERS,
            name,
            Duration.ZERO,
            "the last audit of index '%s' found: %s"
                .formatted(name, audit == null ? "" : audit.statement())));
  }

  private void retained(String index, List<Look> looks) {
    SourceReader reader = indexes.retained(index);
    if (reader == null) {
      return;
    }
    boolean isBytes = reader.unit() == SourceReader.Unit.BYTES;
    looks.add(
        Look.above(
            (double) reader.retained(),
            (double) (isBytes ? limits.retained().toBytes() : limits.retainedChanges()),
            Condition.RETAINED,
            index,
            "the source keeps %,d %s for index '%s', which does not take them"
                .formatted(
                    reader.retained(), reader.unit().name().toLowerCase(Locale.ROOT), index)));
  }

  private void store(List<Look> looks) {
    String published = publications.problem();
    String followed = following.problem();
    looks.add(
        Look.whether(
            isSet(limits.store()) && (published != null || followed != null),
            Condition.STORE,
            "store",
            limits.store(),
            published == null
                ? "what builders publish cannot be followed: %s".formatted(followed)
                : "not everything is published for other machines: %s".formatted(published)));
  }

  private void nodes(List<Look> looks) {
    for (NodeView node : nodes.all()) {
      looks.add(
          Look.whether(
              isSet(limits.nodeAway()) && node.state().equals("away"),
              Condition.NODE_AWAY,
              node.name(),
              limits.nodeAway(),
              "search node '%s' has not reported since %s".formatted(node.name(), node.seen())));
    }
  }

  private void disk(List<Look> looks) {
    try {
      FileStore store = Files.getFileStore(data);
      double free = PERCENT * store.getUsableSpace() / Math.max(1, store.getTotalSpace());
      looks.add(
          Look.below(
              free,
              limits.diskFree(),
              Condition.DISK,
              "disk",
              "%.0f%% of the disk of %s is free; when it is full, indexes stop following"
                  .formatted(free, data)));
    } catch (IOException e) {
      LOG.debug("the disk cannot be asked", e);
    }
  }

  private void searches(Instant now, List<Look> looks) {
    searches.sample(now);
    double failed = searches.failedPercent();
    looks.add(
        Look.above(
            failed,
            limits.errors(),
            Condition.ERRORS,
            "searches",
            "%.0f%% of the searches of the last five minutes failed; the log says why"
                .formatted(failed)));
    searches
        .slowest()
        .forEach(
            (endpoint, millis) ->
                looks.add(
                    Look.above(
                        millis,
                        (double) limits.slow().toMillis(),
                        Condition.SLOW,
                        endpoint,
                        "one in a hundred searches of endpoint '%s' takes %,.0f ms or longer"
                            .formatted(endpoint, Math.min(millis, LONGEST_KNOWN)))));
  }
}
