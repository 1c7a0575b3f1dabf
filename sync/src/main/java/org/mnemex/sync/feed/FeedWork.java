package org.mnemex.sync.feed;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What a feed does, piece by piece: prepare capturing, fill, apply changes, refresh, commit. It is
 * used by the feed's thread alone, unless a method says otherwise.
 */
final class FeedWork {
  private static final Logger LOG = LoggerFactory.getLogger(FeedWork.class);
  private static final int ASKED_AT_ONCE = 500;

  /** Rarely: trimming takes the source's write lock for a moment. */
  private static final Duration TRIM_INTERVAL = Duration.ofSeconds(30);

  /** A changed table is noticed after so long at the latest; at once if a statement fails. */
  private static final Duration TABLES_INTERVAL = Duration.ofSeconds(30);

  /** Of one batch of few changes. */
  private static final int SMALL_SEGMENT_DOCUMENTS = 64;

  /** As many as wait for being merged if merging keeps up. */
  private static final int MAX_SMALL_SEGMENTS = 8;

  private static final long GATHER_MILLIS_A_SEGMENT = 20;
  private static final long MAX_GATHER_MILLIS = 200;

  private volatile IndexDefinition definition;
  private final int edition;
  private final Source source;
  private final EditionFolder folder;
  private final Clock clock;
  private final Runnable caughtUp;
  private final RecordWriter writer;
  private final Fill fill;
  private final Source.Capture capture;
  private final RemovalGuard guard;
  private final Pace pace;
  private final TraceLog traces = new TraceLog();
  private final CountDownLatch stop;
  private final Quarantine waiting;
  private final ChangeApplier applier;
  private final CommitSchedule commits;

  private volatile @Nullable RecordReader reader;
  private @Nullable ReadColumns columns;
  private boolean prepared;

  /** Everything up to here is applied. */
  private @Nullable Position position;

  /** Everything up to here was handed out by the source. */
  private @Nullable Position handedOut;

  private @Nullable Position committed;
  private @Nullable Position trimmable;
  private boolean announcedLive;
  private boolean sawAll;
  private boolean unrefreshed;
  private boolean unrefreshedFill;
  private Instant lastTrim = Instant.EPOCH;
  private Instant lastTablesCheck = Instant.EPOCH;

  /** Whether somebody may have asked for records to be read again. */
  private volatile boolean asked = true;

  private volatile @Nullable Instant trueAt;
  private volatile @Nullable Position visiblePosition;

  /**
   * Work that goes on from the folder's checkpoint.
   *
   * @param stop counted down when the feed is to end
   * @param caughtUp called once, when the backfill is done and all changes up to then are applied
   */
  FeedWork(
      FeedSettings settings,
      EditionFolder folder,
      Quarantine quarantine,
      Clock clock,
      CountDownLatch stop,
      Runnable caughtUp) {
    this.definition = settings.definition();
    this.edition = settings.edition();
    this.source = settings.source();
    this.pace = settings.pace();
    this.folder = folder;
    this.clock = clock;
    this.stop = stop;
    this.caughtUp = caughtUp;
    DocumentMapper mapper = new DocumentMapper(definition);
    this.writer = new RecordWriter(definition, edition, folder, quarantine, clock);
    this.fill =
        new Fill(
            definition,
            definition.name() + "-" + edition,
            read -> source.reader(definition.shape(), definition.expressions(), read),
            mapper,
            writer,
            pace,
            settings.origin());
    this.capture = source.capture(settings.readerName());
    this.guard = new RemovalGuard(definition.mostRemoved(), clock);
    this.waiting = quarantine;
    this.applier =
        new ChangeApplier(
            this::reader,
            folder,
            mapper,
            writer,
            fill,
            guard,
            traces,
            clock,
            Math.min(pace.batch(), pace.portion()));
    this.commits = new CommitSchedule(clock);
    resume(folder.snapshot().checkpoint());
  }

  private void resume(Checkpoint checkpoint) {
    FeedCheckpoint before = FeedCheckpoint.read(checkpoint);
    if (before.position() == null) {
      return;
    }
    position = before.position();
    handedOut = position;
    committed = position;
    visiblePosition = position;
    fill.resume(before.fill());
    columns = before.columns();
    trueAt = before.time();
  }

  /** Whether the backfill is done; may be asked by any thread. */
  boolean isFilled() {
    return fill.isDone();
  }

  /**
   * Does the next piece of work: a portion of the backfill, or a batch of changes.
   *
   * @throws PositionLostException if only a new edition can help
   */
  void step()
      throws SourceUnavailableException, NotPreparedException, IOException, InterruptedException {
    if (!prepared) {
      prepare();
    } else if (Duration.between(lastTablesCheck, clock.instant()).compareTo(TABLES_INTERVAL) >= 0) {
      checkTables();
    }
    if (!fill.isDone()) {
      fill();
      applyChanges(Duration.ZERO);
    } else {
      if (unrefreshedFill || unrefreshed) {
        // The disk was full when what was written was to become visible.
        refresh();
      }
      applyAsked();
      int applied = applyChanges(applier.hasFanOuts() ? Duration.ZERO : pace.idleWait());
      // A batch that is not full had all there was: a source that never rests is caught up with,
      // too.
      if (applied < pace.batch()
          && (applied > 0 || sawAll)
          && applier.isSettled()
          && !announcedLive) {
        commit();
        announcedLive = true;
        caughtUp.run();
      }
      commitIfDue(applied == 0 && applier.isSettled());
      if (applied > 0 && applied < pace.batch()) {
        gather();
      }
    }
  }

  /** Where small segments pile up faster than they are merged, fewer and larger ones are made. */
  private void gather() throws InterruptedException {
    long small =
        folder.snapshot().segments().stream()
            .filter(segment -> segment.liveCount() <= SMALL_SEGMENT_DOCUMENTS)
            .count();
    if (small > MAX_SMALL_SEGMENTS) {
      long millis = (small - MAX_SMALL_SEGMENTS) * GATHER_MILLIS_A_SEGMENT;
      stop.await(Math.min(millis, MAX_GATHER_MILLIS), TimeUnit.MILLISECONDS);
    }
  }

  private void prepare() throws SourceUnavailableException, NotPreparedException {
    if (columns == null) {
      columns = fill.columns();
    }
    checkTables();
    source.prepare(definition.shape().watchedColumns());
    if (position == null) {
      position = capture.now();
      handedOut = position;
      capture.done(position);
    }
    if (!fill.isDone() && fill.isFromDatabase()) {
      fill.expect(reader().estimate());
    }
    prepared = true;
  }

  /**
   * Whether the tables are still what they were when the edition was begun, and their changes are
   * captured.
   */
  private void checkTables() throws SourceUnavailableException {
    ReadColumns now = source.columns(definition.shape());
    ReadColumns before = columns;
    columns = before == null ? now : ColumnsCheck.check(definition, before, now);
    if (position != null) {
      for (Requirement requirement : source.requirements(definition.shape().watchedColumns())) {
        // Making it again would not bring back the changes that were missed without it.
        if (requirement.isMissing() && requirement.kind() == Requirement.Kind.PREPARABLE) {
          throw new PositionLostException(
              "changes may not have been captured; this no longer held: " + requirement.what());
        }
      }
    }
    lastTablesCheck = clock.instant();
  }

  private RecordReader reader() {
    RecordReader open = reader;
    if (open == null) {
      open = source.reader(definition.shape(), definition.expressions(), columns);
      reader = open;
    }
    return open;
  }

  /** Writes the next portion of what the edition is filled with, if one is ready. */
  private void fill() throws SourceUnavailableException, IOException, InterruptedException {
    commits.wrote(fill.next(Objects.requireNonNull(position), columns, this::readAgain));
    if (fill.isDone() || commits.isFillDue()) {
      unrefreshedFill = true;
      refresh();
      commit();
    }
    trimIfDue();
    if (fill.isDone()) {
      LOG.info("index '{}': edition {} is filled and catches up", definition.name(), edition);
    }
  }

  /** Applies a batch of changes, and a portion of what was put off; how many changes there were. */
  private int applyChanges(Duration wait)
      throws SourceUnavailableException, IOException, InterruptedException {
    Position from = handedOut;
    if (from == null) {
      throw new IllegalStateException("not prepared");
    }
    Position before = position;
    try {
      Instant looked = clock.instant();
      Changes changes =
          applier.isFull()
              ? new Changes(List.of(), from, false)
              : capture.after(from, pace.batch(), wait);
      if (changes.tablesChanged()) {
        checkTables();
      }
      sawAll = changes.complete();
      if (!changes.list().isEmpty() || !applier.isSettled()) {
        beginWriting();
        commits.wrote(Math.max(1, applier.apply(changes.list(), changes.complete())));
      }
      handedOut = changes.upTo();
      show();
      if (applier.hasFanOuts()) {
        beginWriting();
        commits.wrote(applier.goOn());
        show();
      }
      visiblePosition = position;
      if (fill.isDone() && changes.complete() && applier.isSettled()) {
        trueAt = looked;
      }
      return changes.list().size();
    } catch (SourceUnavailableException | IOException | RuntimeException | Error e) {
      // What was handed out is not applied, or not visible: it is asked for again.
      position = before;
      handedOut = before;
      applier.reset();
      capture.close();
      throw e;
    }
  }

  private void beginWriting() throws IOException {
    if (unrefreshed) {
      // A batch that failed half-way is pending; records are compared with what is visible.
      refresh();
    }
    unrefreshed = true;
  }

  /** Makes visible what was written, as of what is handed out if nothing of that is put off. */
  private void show() throws IOException {
    if (applier.isSettled()) {
      position = handedOut;
    }
    if (unrefreshed) {
      refresh();
      applier.visible();
    }
  }

  /** Reads records again that somebody asked for. */
  private void applyAsked() throws SourceUnavailableException, IOException {
    while (asked && applier.isSettled()) {
      // Before they are looked for: who asks now is not forgotten.
      asked = false;
      String index = definition.keptAs();
      List<String> keys = waiting.asked(index, edition, ASKED_AT_ONCE);
      if (keys.isEmpty()) {
        return;
      }
      asked = true;
      int columnsOfKey = definition.shape().key().size();
      unrefreshed = true;
      try {
        applier.readAgain(
            keys.stream().map(key -> RecordKey.parse(key, columnsOfKey)).toList(),
            new Change("(asked)", Map.of(), clock.instant(), Objects.requireNonNull(position)));
        refresh();
        applier.visible();
      } catch (SourceUnavailableException | IOException | RuntimeException e) {
        applier.reset();
        throw e;
      }
      commit();
      waiting.answered(index, edition, keys);
    }
  }

  /** Has records read again between two batches of changes; may be called by any thread. */
  void readAgain(Collection<RecordKey> keys) {
    waiting.ask(definition.keptAs(), edition, keys.stream().map(RecordKey::text).toList());
    asked = true;
  }

  private void refresh() throws IOException {
    Map<String, String> filled = new TreeMap<>();
    fill.note(filled);
    folder.refresh(new FeedCheckpoint(position, clock.instant(), columns, filled).toCheckpoint());
    visiblePosition = position;
    unrefreshed = false;
    unrefreshedFill = false;
  }

  private void commitIfDue(boolean idle) throws IOException, SourceUnavailableException {
    if (commits.isDue(idle)) {
      commit();
    } else if (idle && !Objects.equals(position, committed) && commits.isIdleDue()) {
      // Nothing changed here, but the source keeps its log until it hears how far we are.
      refresh();
      commit();
    }
    trimIfDue();
  }

  private void trimIfDue() throws SourceUnavailableException {
    Position done = trimmable;
    if (done != null && Duration.between(lastTrim, clock.instant()).compareTo(TRIM_INTERVAL) >= 0) {
      capture.done(done);
      trimmable = null;
      lastTrim = clock.instant();
    }
  }

  private void commit() throws IOException {
    folder.commit();
    // One commit behind, so that the manifest before this one stays usable as well.
    trimmable = committed;
    committed = position;
    commits.committed();
  }

  /** Whether a record is in quarantine; may be asked by any thread. */
  boolean isSetAside(String key) {
    return writer.isSetAside(key);
  }

  /** What is visible is true up to here; may be asked by any thread. */
  @Nullable Position visiblePosition() {
    return visiblePosition;
  }

  /** The moment of which the index is true; may be asked by any thread. */
  @Nullable Instant trueAt() {
    return trueAt;
  }

  /** The last changes; may be used by any thread. */
  TraceLog traces() {
    return traces;
  }

  /** How far the backfill is; may be asked by any thread. */
  Fill.Progress progress() {
    return fill.progress();
  }

  /** Takes another version of the definition; may be called by any thread. */
  void redefine(IndexDefinition other) {
    definition = other;
    writer.redefine(other);
    guard.limit(other.mostRemoved());
  }

  /** Lets documents be removed that were held back; may be called by any thread. */
  void agree() {
    guard.agree();
  }

  /** Commits what is visible with the position that it is true for, if nothing is half written. */
  void commitVisible() throws IOException {
    if (position != null
        && !unrefreshed
        && (commits.hasUncommitted() || !position.equals(committed))) {
      refresh();
      commit();
    }
  }

  /** Cuts off from the source, whatever is awaited of it; may be called by any thread. */
  void abort() {
    capture.abort();
    RecordReader open = reader;
    if (open != null) {
      open.abort();
    }
  }

  /** Lets go of the source, which may not be what it was when it is asked again. */
  void letGo() {
    prepared = false;
    fill.close();
    capture.close();
    RecordReader open = reader;
    if (open != null) {
      open.close();
    }
  }
}
