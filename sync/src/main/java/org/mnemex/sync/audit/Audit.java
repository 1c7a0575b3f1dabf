package org.mnemex.sync.audit;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.KeyLookup;
import org.mnemex.engine.read.KeyWalk;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.Watch;
import org.mnemex.sync.mapping.ContentHash;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.scan.RecordScan;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Compares a live edition with its database.
 *
 * <h2>The first look</h2>
 *
 * <p>Records are read in portions by key, mapped, and their content hash compared with that of the
 * document. If the index has more documents than were met on the way, its keys are looked up in the
 * database, portion by portion. What differs is a candidate.
 *
 * <h2>The second look</h2>
 *
 * <p>A candidate may be a change on its way, so it is looked at again, and then the feed is waited
 * for until it has applied everything up to a moment following this look. If it did not come by the
 * record from before the look up to then, there was no change of it on its way: the index had its
 * chance and differs. Otherwise it is looked at once more. That both sides said the same at two
 * looks would not be enough: a value may have gone back and forth in between.
 */
public final class Audit {

  private static final int PORTION = 500;
  private static final int MAX_CANDIDATES = 100_000;
  private static final Duration PATIENCE = Duration.ofSeconds(60);
  private static final long POLL_MILLIS = 50;
  private static final Duration LOOK_WAIT = Duration.ofSeconds(1);

  private final AuditScope scope;
  private final Edition edition;
  private final Source source;
  private final DocumentMapper mapper;
  private final Quarantine quarantine;
  private volatile Set<String> quarantined;
  private final Clock clock;
  private AuditProgress progress = AuditProgress.NONE;
  private final Map<String, Difference> candidates = new TreeMap<>();

  /** Records in quarantine that exist and still cannot be indexed. */
  private final Set<String> waiting = new HashSet<>();

  private long records;
  private long met;
  private long inQuarantine;

  /**
   * @param source where the edition's records come from
   */
  public Audit(
      Edition edition, Source source, Quarantine quarantine, AuditScope scope, Clock clock) {
    this.scope = scope;
    this.edition = edition;
    this.source = source;
    this.mapper = new DocumentMapper(edition.definition());
    this.quarantine = quarantine;
    this.quarantined = inQuarantine();
    this.clock = clock;
  }

  /** Tells somebody how far it is; to be called before it runs. */
  public Audit telling(AuditProgress told) {
    this.progress = told;
    return this;
  }

  private Set<String> inQuarantine() {
    return quarantine.keys(edition.definition().keptAs(), edition.number());
  }

  /**
   * The content hashes of both sides.
   *
   * @param index content hash of the document, null if there is none
   */
  private record Difference(RecordKey key, Demand database, @Nullable ContentHash index) {}

  /** The kind of difference. */
  private enum Kind {
    NONE,
    MISSING,
    STALE,
    EXTRA,
    /** It is in quarantine without a reason. */
    NEEDLESS
  }

  private Kind kind(Difference of) {
    String text = of.key.text();
    boolean isQuarantined = quarantined.contains(text);
    boolean there = of.index != null;
    return switch (of.database) {
      case Demand.NoRecord none -> there ? Kind.EXTRA : isQuarantined ? Kind.NEEDLESS : Kind.NONE;
      case Demand.NoDocument none -> {
        boolean kept = isQuarantined && edition.definition().keepUnreadable();
        yield there && !kept ? Kind.EXTRA : Kind.NONE;
      }
      case Demand.Quarantine quarantine -> there ? Kind.STALE : Kind.MISSING;
      case Demand.OfContent(ContentHash hash) ->
          !there
              ? Kind.MISSING
              : !hash.equals(of.index) ? Kind.STALE : isQuarantined ? Kind.NEEDLESS : Kind.NONE;
    };
  }

  /**
   * Runs the audit.
   *
   * @param repair whether to hand differences to the feed
   * @throws AuditFailedException if the edition is not live, or lags too far for a verdict
   * @throws SourceUnavailableException if the database cannot be read
   */
  public AuditResult run(boolean repair)
      throws SourceUnavailableException, AuditFailedException, InterruptedException {
    Instant started = clock.instant();
    long start = System.nanoTime();
    requireLive();
    try (RecordReader reader = reader()) {
      switch (scope) {
        case AuditScope.All all -> {
          progress.total(edition.folder().snapshot().documents());
          firstLook(reader);
          lookAtQuarantine(reader);
        }
        case AuditScope.Sample sample -> lookAtSample(reader, sample.size());
        case AuditScope.Key key ->
            lookAt(reader, List.of(RecordKey.parse(key.text(), keyColumns())));
      }
      secondLook(reader);
    }
    List<String> missing = new ArrayList<>();
    List<String> stale = new ArrayList<>();
    List<String> extra = new ArrayList<>();
    List<String> needless = new ArrayList<>();
    candidates.forEach(
        (text, difference) -> {
          switch (kind(difference)) {
            case MISSING -> missing.add(text);
            case STALE -> stale.add(text);
            case EXTRA -> extra.add(text);
            case NEEDLESS -> needless.add(text);
            case NONE -> {
              // The second look settled it.
            }
          }
        });
    if (repair) {
      edition.feed().readAgain(candidates.values().stream().map(Difference::key).toList());
    }
    FeedStatus status = edition.feed().status();
    return new AuditResult(
        edition.definition().name(),
        edition.number(),
        status.position() == null ? null : status.position().told(),
        records,
        records - inQuarantine - missing.size() - stale.size(),
        inQuarantine,
        missing,
        stale,
        extra,
        needless,
        repair && !candidates.isEmpty(),
        switch (scope) {
          case AuditScope.All all -> null;
          case AuditScope.Sample sample -> sample.share();
          case AuditScope.Key key -> 0.0;
        },
        started,
        (System.nanoTime() - start) / 1_000_000);
  }

  private RecordReader reader() {
    return source.reader(
        edition.definition().shape(),
        edition.definition().expressions(),
        edition.feed().columns(),
        edition.shard());
  }

  private void requireLive() throws AuditFailedException {
    FeedStatus status = edition.feed().status();
    if (status.phase() != FeedStatus.Phase.LIVE) {
      throw new AuditFailedException(
          "edition %d of index '%s' is not live (%s%s); an audit compares a live edition"
              .formatted(
                  edition.number(),
                  edition.definition().name(),
                  status.phase().name().toLowerCase(Locale.ROOT),
                  status.problem() == null ? "" : ": " + status.problem()));
    }
  }

  /** Both sides of a portion. */
  private record Looked(List<Difference> seen, Collection<RecordKey> unreadable) {}

  private void firstLook(RecordReader reader)
      throws SourceUnavailableException, AuditFailedException, InterruptedException {
    try (RecordScan<Looked> scan =
        new RecordScan<>(
            this::reader,
            null,
            PORTION,
            source.recordsPerSecond(),
            () -> 0,
            this::look,
            "audit-" + edition.definition().name())) {
      RecordScan.Portion<Looked> portion;
      do {
        portion = scan.next(LOOK_WAIT);
        if (portion != null) {
          note(portion);
        }
      } while (portion == null || !portion.isLast());
    }
    if (edition.folder().snapshot().documents() > met) {
      lookForExtra(reader);
    }
  }

  private Looked look(Records portion) {
    KeyLookup index = edition.folder().snapshot().lookup();
    List<Difference> seen = new ArrayList<>(portion.found().size());
    for (AssembledRecord record : portion.found()) {
      seen.add(bothSides(record, index));
    }
    return new Looked(seen, portion.unreadable().keySet());
  }

  private void note(RecordScan.Portion<Looked> portion) throws AuditFailedException {
    records += portion.rows();
    KeyLookup index = edition.folder().snapshot().lookup();
    for (Difference seen : portion.made().seen) {
      note(seen);
    }
    for (RecordKey key : portion.made().unreadable) {
      note(noDocument(key, index));
    }
    progress.compared(records);
  }

  /**
   * Looks at random documents, which may be stale or extra, and at the records that follow them in
   * key order, which may be missing.
   */
  private void lookAtSample(RecordReader reader, int size)
      throws SourceUnavailableException, AuditFailedException, InterruptedException {
    Snapshot snapshot = edition.folder().snapshot();
    List<String> picked = new ArrayList<>();
    SplittableRandom random = new SplittableRandom();
    long[] seen = {0};
    // Algorithm R of Vitter, "Random Sampling with a Reservoir", 1985.
    snapshot.forEachHash(
        (key, hash) -> {
          seen[0]++;
          if (picked.size() < size) {
            picked.add(key);
          } else {
            long at = random.nextLong(seen[0]);
            if (at < size) {
              picked.set((int) at, key);
            }
          }
        });
    if (picked.isEmpty()) {
      firstLook(reader);
      return;
    }
    Set<RecordKey> keys = new LinkedHashSet<>();
    int ofIndex = Math.max(1, picked.size() / 2);
    for (String key : picked.subList(0, ofIndex)) {
      keys.add(RecordKey.parse(key, keyColumns()));
    }
    for (String key : picked.subList(ofIndex, picked.size())) {
      Records following = reader.readAfter(RecordKey.parse(key, keyColumns()), 1);
      if (following.last() != null) {
        // In the documents' form, so that a record is not counted twice.
        keys.add(RecordKey.parse(following.last().text(), keyColumns()));
      }
    }
    lookAt(reader, List.copyOf(keys));
  }

  private void lookAt(RecordReader reader, List<RecordKey> keys)
      throws SourceUnavailableException, AuditFailedException {
    progress.total(keys.size());
    for (int from = 0; from < keys.size(); from += PORTION) {
      Map<String, RecordKey> left = new TreeMap<>();
      keys.subList(from, Math.min(keys.size(), from + PORTION))
          .forEach(key -> left.put(key.text(), key));
      Records found = reader.read(left.values());
      KeyLookup index = edition.folder().snapshot().lookup();
      for (AssembledRecord record : found.found()) {
        note(bothSides(record, index));
        left.remove(record.key().text());
      }
      for (RecordKey key : found.unreadable().keySet()) {
        note(noDocument(key, index));
        left.remove(key.text());
      }
      records += found.found().size() + found.unreadable().size();
      for (RecordKey key : left.values()) {
        note(noRecord(key, index));
      }
      progress.compared(records);
    }
  }

  private int keyColumns() {
    return edition.definition().shape().key().size();
  }

  private Difference bothSides(AssembledRecord record, KeyLookup index) {
    ContentHash document = hash(index, record.key());
    return new Difference(record.key(), demand(record, document), document);
  }

  private Demand demand(AssembledRecord record, @Nullable ContentHash document) {
    try {
      ContentHash hash = mapper.hash(record, document);
      // A record that equals its document can be mapped: no need to try.
      if (!hash.equals(document)) {
        mapper.map(record);
      }
      return new Demand.OfContent(hash);
    } catch (UnmappableRecordException e) {
      return quarantined.contains(record.key().text())
          ? new Demand.NoDocument()
          : new Demand.Quarantine();
    }
  }

  private static @Nullable ContentHash hash(KeyLookup index, RecordKey key) {
    Long bits = index.hash(key.text());
    return bits == null ? null : new ContentHash(bits);
  }

  private void note(Difference difference) throws AuditFailedException {
    met += difference.index == null ? 0 : 1;
    if (difference.database instanceof Demand.NoDocument) {
      inQuarantine++;
      waiting.add(difference.key.text());
    }
    if (kind(difference) != Kind.NONE) {
      candidate(difference);
    }
  }

  private void candidate(Difference difference) throws AuditFailedException {
    candidates.put(difference.key.text(), difference);
    if (candidates.size() > MAX_CANDIDATES) {
      throw new AuditFailedException(
          "more than %,d records differ; rebuild the index".formatted(MAX_CANDIDATES));
    }
  }

  private void lookForExtra(RecordReader reader)
      throws SourceUnavailableException, AuditFailedException {
    Snapshot snapshot = edition.folder().snapshot();
    KeyLookup index = snapshot.lookup();
    KeyWalk walk = new KeyWalk(snapshot, null);
    List<String> portion = new ArrayList<>(PORTION);
    boolean more = true;
    while (more) {
      more = walk.next();
      if (more) {
        portion.add(walk.key());
      }
      if (portion.size() == PORTION || !more) {
        for (String key : absent(reader, portion)) {
          candidate(noRecord(RecordKey.parse(key, keyColumns()), index));
        }
        portion.clear();
      }
    }
  }

  /** Looks at records in quarantine that were not seen, or could be indexed. */
  private void lookAtQuarantine(RecordReader reader)
      throws SourceUnavailableException, AuditFailedException {
    KeyLookup index = edition.folder().snapshot().lookup();
    List<String> rest = quarantined.stream().filter(key -> !waiting.contains(key)).toList();
    for (int from = 0; from < rest.size(); from += PORTION) {
      for (String key : absent(reader, rest.subList(from, Math.min(rest.size(), from + PORTION)))) {
        candidate(noRecord(RecordKey.parse(key, keyColumns()), index));
      }
    }
  }

  private static Difference noRecord(RecordKey key, KeyLookup index) {
    return new Difference(key, new Demand.NoRecord(), hash(index, key));
  }

  private static Difference noDocument(RecordKey key, KeyLookup index) {
    return new Difference(key, new Demand.NoDocument(), hash(index, key));
  }

  /** The keys without a record in the database. */
  private Set<String> absent(RecordReader reader, List<String> keys)
      throws SourceUnavailableException {
    Set<String> absent = new LinkedHashSet<>(keys);
    int columns = keyColumns();
    Records found = reader.read(keys.stream().map(key -> RecordKey.parse(key, columns)).toList());
    found.found().forEach(record -> absent.remove(record.key().text()));
    found.unreadable().keySet().forEach(key -> absent.remove(key.text()));
    return absent;
  }

  private void secondLook(RecordReader reader)
      throws SourceUnavailableException, AuditFailedException, InterruptedException {
    Instant deadline = clock.instant().plus(PATIENCE);
    Collection<Difference> unsettled = List.copyOf(candidates.values());
    while (!unsettled.isEmpty()) {
      try (Watch watch =
          edition.feed().watch(unsettled.stream().map(before -> before.key.text()).toList())) {
        quarantined = inQuarantine();
        Map<String, Difference> now = look(reader, unsettled, edition.folder().snapshot().lookup());
        awaitTrueAt(clock.instant(), deadline);
        now.forEach(candidates::replace);
        now.values().stream()
            .filter(difference -> kind(difference) == Kind.NONE)
            .forEach(difference -> candidates.remove(difference.key.text()));
        unsettled =
            now.values().stream()
                .filter(difference -> kind(difference) != Kind.NONE)
                .filter(difference -> watch.hasMet(difference.key.text()))
                .toList();
      }
      if (!unsettled.isEmpty() && clock.instant().isAfter(deadline)) {
        throw new AuditFailedException(
            "record '%s' and %d others of index '%s' kept changing for %d s; try again when there are fewer writes"
                .formatted(
                    unsettled.iterator().next().key.text(),
                    unsettled.size() - 1,
                    edition.definition().name(),
                    PATIENCE.toSeconds()));
      }
    }
  }

  /** The current content hashes of both sides for some records. */
  private Map<String, Difference> look(
      RecordReader reader, Collection<Difference> differences, KeyLookup index)
      throws SourceUnavailableException {
    List<RecordKey> keys = differences.stream().map(Difference::key).toList();
    Map<String, Difference> now = new HashMap<>();
    for (RecordKey key : keys) {
      now.put(key.text(), noRecord(key, index));
    }
    for (int from = 0; from < keys.size(); from += PORTION) {
      Records found = reader.read(keys.subList(from, Math.min(keys.size(), from + PORTION)));
      for (RecordKey key : found.unreadable().keySet()) {
        now.put(key.text(), noDocument(key, index));
      }
      for (AssembledRecord record : found.found()) {
        now.put(record.key().text(), bothSides(record, index));
      }
    }
    return now;
  }

  /** Waits until the edition includes everything up to a moment. */
  private void awaitTrueAt(Instant moment, Instant deadline)
      throws AuditFailedException, InterruptedException {
    while (true) {
      requireLive();
      Instant trueAt = edition.feed().trueAt();
      if (trueAt != null && trueAt.isAfter(moment)) {
        return;
      }
      if (clock.instant().isAfter(deadline)) {
        throw new AuditFailedException(
            "the feed of index '%s' did not catch up within %d s; try again when it lags less"
                .formatted(edition.definition().name(), PATIENCE.toSeconds()));
      }
      TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
    }
  }
}
