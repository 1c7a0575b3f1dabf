package org.mnemex.service.status;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.QuarantineMapper;
import org.mnemex.service.store.QuarantineMapper.QuarantineRow;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.feed.ChangeTrace;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;
import org.springframework.stereotype.Component;

/** The state of indexes and their records. */
@Component
public class Indexes {
  private static final int QUARANTINE_SHOWN = 100;

  /** An index is fresh if it has looked at its source within this time. */
  private static final Duration FRESH = Duration.ofSeconds(5);

  private final Installation installation;
  private final QuarantineMapper quarantine;
  private final Retention retention;
  private final Clock clock;

  public Indexes(
      Installation installation, QuarantineMapper quarantine, Retention retention, Clock clock) {
    this.retention = retention;
    this.installation = installation;
    this.quarantine = quarantine;
    this.clock = clock;
  }

  /**
   * An index.
   *
   * @param name name of the index
   * @param source the source of its records
   * @param version current version of its definition
   * @param fresh whether the live edition was level with the source moments ago
   * @param paused whether somebody has paused the feed
   * @param held why a complete edition waits for approval, or null
   * @param problem why the index is not running, or null
   * @param live the live edition, or null
   * @param next the edition that is being filled or waits for approval, or null
   * @param former the previous edition, which can be restored, or null
   */
  public record IndexStatus(
      String name,
      String source,
      int version,
      boolean fresh,
      boolean paused,
      @Nullable String held,
      @Nullable String problem,
      @Nullable EditionStatus live,
      @Nullable EditionStatus next,
      @Nullable EditionStatus former) {}

  /**
   * An edition.
   *
   * @param number number of the edition
   * @param version version of the index definition that it was built from
   * @param state filling, ready, live or former
   * @param fromStored whether it was filled from stored records instead of the database
   * @param until when a previous edition is removed, ISO 8601; otherwise null
   * @param documents number of documents
   * @param bytes size on disk, in bytes
   * @param segments number of segments
   * @param quarantined number of records in quarantine
   * @param phase what its feed is doing
   * @param problem why its feed is not making progress, or null
   * @param damage why its files cannot be trusted, or null
   * @param retained what the source keeps for it, like {@code 120 changes}; null if unknown
   * @param position the position up to which it includes every change; null before the first
   *     backfill ends
   * @param trueAt the time of that position, ISO 8601; null before the first backfill ends
   * @param recordsDone records filled so far
   * @param recordsTotal records to fill
   * @param recordsPerSecond current rate of filling
   * @param changes changes included since the service started
   * @param lagMedianMillis median time from commit to visibility, in milliseconds
   * @param lagP99Millis 99th percentile of the time from commit to visibility, in milliseconds
   */
  public record EditionStatus(
      int number,
      int version,
      String state,
      boolean fromStored,
      @Nullable String until,
      long documents,
      long bytes,
      int segments,
      long quarantined,
      FeedStatus.Phase phase,
      @Nullable String problem,
      @Nullable String damage,
      @Nullable String retained,
      @Nullable String position,
      @Nullable String trueAt,
      long recordsDone,
      long recordsTotal,
      long recordsPerSecond,
      long changes,
      long lagMedianMillis,
      long lagP99Millis) {}

  /** All indexes, by name. */
  public List<IndexStatus> all() {
    Map<String, IndexStatus> all = new TreeMap<>();
    installation.failures().values().forEach(failure -> all.put(failure.row().name(), of(failure)));
    installation.running().indexes().values().forEach(i -> all.put(i.index().name(), status(i)));
    return List.copyOf(all.values());
  }

  private static IndexStatus of(Installation.Failure failure) {
    return new IndexStatus(
        failure.row().name(),
        "",
        failure.row().version(),
        false,
        false,
        null,
        "not running: " + failure.why(),
        null,
        null,
        null);
  }

  /** The definitions of all indexes. */
  public List<IndexDefinition> definitions() {
    return installation.running().indexes().values().stream().map(RunningIndex::index).toList();
  }

  /** The definition of an index. */
  public IndexDefinition definition(String name) {
    return running(name).index();
  }

  /** One index. */
  public IndexStatus one(String name) {
    Installation.Failure failure = installation.failures().get(name);
    return failure != null ? of(failure) : status(running(name));
  }

  /** Every edition that an index ever had, by number. */
  public List<EditionStore.EditionEntry> history(String name) {
    return running(name).editions().history();
  }

  /** The storage name of an index. */
  String keptAs(String name) {
    return running(name).index().keptAs();
  }

  private RunningIndex running(String name) {
    Installation.Failure failure = installation.failures().get(name);
    if (failure != null) {
      throw new ProblemException(
          ProblemType.INDEX_NOT_RUNNING,
          "index '%s' is not running: %s".formatted(name, failure.why()));
    }
    return installation.running().index(name);
  }

  private IndexStatus status(RunningIndex index) {
    Edition live = index.editions().live();
    Edition next = index.editions().next();
    Edition former = index.editions().former();
    Instant trueAt = live == null ? null : live.feed().trueAt();
    boolean fresh =
        trueAt != null
            && live != null
            && live.damage() == null
            && live.feed().phase() == FeedStatus.Phase.LIVE
            && Duration.between(trueAt, clock.instant())
                    .compareTo(FRESH.plus(lookInterval(index.index().source())))
                < 0;
    return new IndexStatus(
        index.index().name(),
        index.index().source(),
        index.version(),
        fresh,
        index.editions().isPaused(),
        index.editions().held(),
        index.editions().problem(),
        live == null ? null : status(index, live),
        next == null ? null : status(index, next),
        former == null ? null : status(index, former));
  }

  private Duration lookInterval(String source) {
    RunningSource found = installation.running().sources().get(source);
    return found == null ? Duration.ZERO : found.source().lookInterval();
  }

  private EditionStatus status(RunningIndex of, Edition edition) {
    SourceReader kept = retention.of(of, edition);
    FeedStatus feed = edition.feed().status();
    Snapshot snapshot = edition.folder().snapshot();
    return new EditionStatus(
        edition.number(),
        edition.version(),
        edition.entry().state().name().toLowerCase(Locale.ROOT),
        edition.entry().plan().fromStored(),
        edition.entry().until() == null ? null : edition.entry().until().toString(),
        snapshot.documents(),
        snapshot.bytes(),
        snapshot.segments().size(),
        edition.feed().setAside(),
        feed.phase(),
        feed.problem() == null ? edition.mergeProblem() : feed.problem(),
        edition.damage(),
        kept == null
            ? null
            : "%,d %s".formatted(kept.retained(), kept.unit().name().toLowerCase(Locale.ROOT)),
        feed.position() == null ? null : feed.position().told(),
        feed.trueAt() == null ? null : feed.trueAt().toString(),
        feed.recordsDone(),
        feed.recordsTotal(),
        feed.recordsPerSecond(),
        feed.changes(),
        feed.lagMedianMillis(),
        feed.lagP99Millis());
  }

  /** What the source keeps for the live edition; null if there is none, or that is unknown. */
  public @Nullable SourceReader retained(String name) {
    RunningIndex index = installation.running().index(name);
    Edition live = index.editions().live();
    return live == null ? null : retention.of(index, live);
  }

  /** The last changes of the live edition, or of the one being filled; newest first. */
  public List<ChangeTrace> changes(String name, int count) {
    return changes(running(name), count);
  }

  /** The last changes of every index that runs, by the names of the indexes. */
  public Map<String, List<ChangeTrace>> changes(int count) {
    Map<String, List<ChangeTrace>> all = new TreeMap<>();
    for (RunningIndex index : installation.running().indexes().values()) {
      all.put(index.index().name(), changes(index, count));
    }
    return all;
  }

  private static List<ChangeTrace> changes(RunningIndex index, int count) {
    return index.editions().all().stream()
        .findFirst()
        .map(edition -> edition.feed().lastChanges(count))
        .orElse(List.of());
  }

  /** Records of the live edition in quarantine. */
  public List<QuarantineRow> quarantine(String name) {
    List<QuarantineRow> rows = new ArrayList<>();
    running(name).editions().all().stream()
        .findFirst()
        .ifPresent(
            edition ->
                rows.addAll(quarantine.list(keptAs(name), edition.number(), QUARANTINE_SHOWN)));
    return rows;
  }

  /**
   * Lets the live edition's feed read records in quarantine again.
   *
   * @param key of a single one; null for all
   * @return how many there are
   */
  public int retryQuarantine(String name, @Nullable String key) {
    Edition live = live(name);
    int columns = live.definition().shape().key().size();
    List<RecordKey> keys =
        quarantine.keys(keptAs(name), live.number()).stream()
            .filter(one -> key == null || one.equals(key))
            .map(one -> RecordKey.parse(one, columns))
            .toList();
    if (key != null && keys.isEmpty()) {
      throw notInQuarantine(name, key);
    }
    live.feed().readAgain(keys);
    return keys.size();
  }

  /** Dismisses a record in quarantine. It stays out of the index and still counts. */
  public void dismiss(String name, String key) {
    if (quarantine.dismiss(keptAs(name), live(name).number(), key) == 0) {
      throw notInQuarantine(name, key);
    }
  }

  private static ProblemException notInQuarantine(String name, String key) {
    return new ProblemException(
        ProblemType.NOT_IN_QUARANTINE,
        "record '%s' of index '%s' is not in quarantine".formatted(key, name));
  }

  /** Why a record is in quarantine, or null if it is not. */
  public @Nullable String quarantineReason(String index, Edition edition, String key) {
    return quarantine.reason(keptAs(index), edition.number(), key);
  }

  /**
   * The editions of an index.
   *
   * @throws ProblemException if there is no such index
   */
  Editions editions(String name) {
    return running(name).editions();
  }

  /** The live edition. */
  public Edition live(String name) {
    Edition live = running(name).editions().live();
    if (live == null) {
      throw new ProblemException(
          ProblemType.INDEX_BEING_BUILT, "index '" + name + "' has no live edition yet");
    }
    return live;
  }

  /** The edition that was live before and can come back, or null. */
  public @Nullable Edition former(String name) {
    return running(name).editions().former();
  }

  /** By index, the edition whose feed represents it: the live one, or else the first. */
  Map<String, Edition> following() {
    Map<String, Edition> editions = new TreeMap<>();
    installation
        .running()
        .indexes()
        .forEach(
            (name, index) ->
                index.editions().all().stream()
                    .findFirst()
                    .ifPresent(edition -> editions.put(name, edition)));
    return editions;
  }

  /**
   * An edition that is there, as far as that can be told without asking the database of our
   * records.
   *
   * @param keptAs the storage name of its index
   * @param done filled records
   * @param expected approximate total of records
   */
  record Built(
      String index,
      String keptAs,
      int number,
      String state,
      boolean fromStored,
      long documents,
      long done,
      long expected) {}

  /** Every edition that is there. */
  List<Built> built() {
    List<Built> all = new ArrayList<>();
    for (RunningIndex index : installation.running().indexes().values()) {
      for (Edition edition : index.editions().all()) {
        Feed.Filled filled = edition.feed().filled();
        all.add(
            new Built(
                index.index().name(),
                index.index().keptAs(),
                edition.number(),
                edition.entry().state().name().toLowerCase(Locale.ROOT),
                edition.entry().plan().fromStored(),
                edition.folder().snapshot().documents(),
                filled.done(),
                filled.expected()));
      }
    }
    return all;
  }

  /** The definition that the live edition was built from. */
  public IndexDefinition liveDefinition(String name) {
    return live(name).definition();
  }

  /** The live edition as it is now. */
  public Snapshot snapshot(String name) {
    return live(name).folder().snapshot();
  }

  /** The source of an index. */
  public Source source(String name) {
    String source = running(name).index().source();
    RunningSource found = installation.running().sources().get(source);
    if (found == null) {
      throw new IllegalStateException("index '" + name + "' has lost its source");
    }
    return found.source();
  }
}
