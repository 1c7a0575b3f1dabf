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
import org.mnemex.sync.source.Reached;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The steps of a feed: prepare capture, fill, apply changes, refresh, commit. Used by the feed's
 * thread alone, unless a method says otherwise.
 */
final class FeedWork {
  private static final Logger LOG = LoggerFactory.getLogger(FeedWork.class);
  private static final int ASKED_AT_ONCE = 500;

  /** Rare, because trimming takes the source's write lock for a moment. */
  private static final Duration TRIM_INTERVAL = Duration.ofSeconds(30);

  /** For one batch of few changes. */
  private static final int SMALL_SEGMENT_DOCUMENTS = 64;

  /** The number of segments that await merging if merging keeps up. */
  private static final int MAX_SMALL_SEGMENTS = 8;

  private static final long GATHER_MILLIS_A_SEGMENT = 20;
  private static final long MAX_GATHER_MILLIS = 200;

  private volatile IndexDefinition definition;
  private final int edition;
  private final Source source;
  private final Shard shard;
  private final EditionFolder folder;
  private final Clock clock;
  private final Feed.Listener listener;
  private final RecordWriter writer;
  private final Fill fill;
  private final Source.Capture capture;
  private final NextChanges next;
  private final RemovalGuard guard;
  private final Pace pace;
  private final BatchSize batch;
  private final TraceLog traces = new TraceLog();
  private final CountDownLatch stop;
  private final Quarantine waiting;
  private final ChangeApplier applier;
  private final CommitSchedule commits;
  private final WatchedTables tables;
  private volatile @Nullable RecordReader reader;
  private boolean prepared;

  /** Everything up to this position is applied. */
  private @Nullable Position position;

  /** The source has handed out everything up to this position. */
  private @Nullable Position handedOut;

  private @Nullable Position committed;
  private @Nullable Position trimmable;
  private boolean announcedLive;
  private boolean unrefreshed;
  private boolean unrefreshedFill;
  private Instant lastTrim = Instant.EPOCH;

  /** Whether re-reads may have been requested. */
  private volatile boolean asked = true;

  private volatile @Nullable Position visiblePosition;

  /**
   * Work that continues from the folder's checkpoint.
   *
   * @param stop counted down to stop the feed
   * @param listener told when changes became visible, and once that the backfill is complete
   */
  FeedWork(
      FeedSettings settings,
      EditionFolder folder,
      Quarantine quarantine,
      Clock clock,
      CountDownLatch stop,
      Feed.Listener listener) {
    this.definition = settings.definition();
    this.edition = settings.edition();
    this.source = settings.source();
    this.shard = settings.shard();
    this.pace = settings.pace();
    this.batch = new BatchSize(pace.batch());
    this.folder = folder;
    this.clock = clock;
    this.stop = stop;
    this.listener = listener;
    DocumentMapper mapper = new DocumentMapper(definition);
    this.writer = new RecordWriter(definition, edition, folder, quarantine, clock);
    this.fill =
        new Fill(
            definition,
            definition.name() + "-" + edition,
            this::open,
            mapper,
            writer,
            pace,
            settings.origin());
    this.capture = source.capture(settings.readerName(), definition.shape().watchedColumns());
    this.next = new NextChanges(capture, clock, pace.idleWait());
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
    this.tables = new WatchedTables(source, () -> definition, clock);
    resume(folder.snapshot().checkpoint());
  }

  private void resume(Checkpoint checkpoint) {
    FeedCheckpoint before = FeedCheckpoint.read(checkpoint);
    if (before.position() == null) {
      return;
    }
    position = before.position();
    capture.continueFrom(before.position());
    handedOut = position;
    committed = position;
    visiblePosition = position;
    fill.resume(before.fill());
    tables.resume(before.columns());
    next.areTrueAt(before.time());
  }

  /** Whether the backfill is done. Thread-safe. */
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
    } else {
      tables.checkIfDue(position != null);
    }
    if (!fill.isDone()) {
      fill();
      applyChanges(Duration.ZERO);
    } else {
      if (unrefreshedFill || unrefreshed) {
        // The disk was full at the refresh.
        refresh();
      }
      applyAsked();
      int limit = batch.next();
      int applied = applyChanges(applier.hasFanOuts() ? Duration.ZERO : idleWait());
      // A batch below its limit had all changes: a source that never rests is caught up with, too.
      if (applied < limit
          && (applied > 0 || next.wereComplete())
          && applier.isSettled()
          && !announcedLive) {
        commit();
        announcedLive = true;
        listener.caughtUp();
      }
      commitIfDue(applied == 0 && applier.isSettled());
      if (applied > 0 && applied < limit) {
        gather();
      }
    }
  }

  private Duration idleWait() {
    return announcedLive ? next.idleWait() : pace.idleWait();
  }

  /** If small segments pile up faster than they are merged, write fewer and larger ones. */
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
    if (tables.columns() == null) {
      tables.resume(fill.columns());
    }
    tables.check(position != null);
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

  private RecordReader reader() {
    RecordReader open = reader;
    if (open == null) {
      open = open(tables.columns());
      reader = open;
    }
    return open;
  }

  private RecordReader open(@Nullable ReadColumns columns) {
    return source.reader(definition.shape(), definition.expressions(), columns, shard);
  }

  /** Writes the next portion of the fill, if one is ready. */
  private void fill() throws SourceUnavailableException, IOException, InterruptedException {
    commits.wrote(fill.next(Objects.requireNonNull(position), tables.columns(), this::readAgain));
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

  /**
   * Applies a batch of changes and a portion of deferred work; returns how many changes there were.
   */
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
              : next.after(
                  from,
                  batch.next(),
                  wait,
                  fill.isDone() && applier.isSettled() && !unrefreshed && !unrefreshedFill);
      if (changes.tablesChanged()) {
        tables.check(true);
      }
      if (!changes.list().isEmpty() || !applier.isSettled()) {
        beginWriting();
        commits.wrote(Math.max(1, applier.apply(changes.list(), changes.complete())));
      }
      handedOut = changes.upTo();
      show();
      if (!changes.list().isEmpty()) {
        batch.applied(changes.list().size(), next.sinceChange(), definition.freshest());
      }
      if (applier.hasFanOuts()) {
        beginWriting();
        commits.wrote(applier.updateDeferred());
        show();
      }
      visiblePosition = position;
      if (fill.isDone() && applier.isSettled()) {
        next.areVisible(changes, looked);
      }
      return changes.list().size();
    } catch (SourceUnavailableException | IOException | RuntimeException | Error e) {
      // Handed-out changes are not applied or not visible: ask for them again.
      position = before;
      handedOut = before;
      applier.reset();
      capture.close();
      throw e;
    }
  }

  private void beginWriting() throws IOException {
    if (unrefreshed) {
      // Parts of a failed batch are pending; records are compared with visible documents.
      refresh();
    }
    unrefreshed = true;
  }

  /** Makes written documents visible, at the handed-out position if no work is deferred. */
  private void show() throws IOException {
    if (applier.isSettled()) {
      position = handedOut;
    }
    if (unrefreshed) {
      refresh();
      applier.visible();
    }
  }

  /** Reads requested records again. */
  private void applyAsked() throws SourceUnavailableException, IOException {
    while (asked && applier.isSettled()) {
      // Before the lookup, so that a request made now is not lost.
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

  /** Requests records to be read again between batches of changes. Thread-safe. */
  void readAgain(Collection<RecordKey> keys) {
    waiting.ask(definition.keptAs(), edition, keys.stream().map(RecordKey::text).toList());
    asked = true;
    wake();
  }

  /** Ends a wait for changes, to look after what was asked for. Thread-safe. */
  void wake() {
    capture.wake();
  }

  private void refresh() throws IOException {
    Map<String, String> filled = new TreeMap<>();
    fill.note(filled);
    folder.refresh(
        new FeedCheckpoint(position, clock.instant(), tables.columns(), filled).toCheckpoint());
    visiblePosition = position;
    boolean wrote = unrefreshed || unrefreshedFill;
    unrefreshed = false;
    unrefreshedFill = false;
    if (wrote) {
      listener.refreshed();
    }
  }

  private void commitIfDue(boolean idle) throws IOException, SourceUnavailableException {
    if (commits.isDue(idle)) {
      commit();
    } else if (idle && !Objects.equals(position, committed) && commits.isIdleDue()) {
      // Nothing changed here, but the source keeps its log until we confirm.
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
    // One commit late, so that the previous manifest stays usable as well.
    trimmable = committed;
    committed = position;
    commits.committed();
  }

  /** Whether a record is in quarantine. Thread-safe. */
  boolean isSetAside(String key) {
    return writer.isSetAside(key);
  }

  /** How many records are in quarantine. Thread-safe. */
  int setAside() {
    return writer.setAside();
  }

  /** The position that visible documents include. Thread-safe. */
  @Nullable Position visiblePosition() {
    Reached reached = next.reached();
    return reached == null ? visiblePosition : reached.upTo();
  }

  /** The moment up to which the index includes everything. Thread-safe. */
  @Nullable Instant trueAt() {
    return next.trueAt();
  }

  /** The latest changes. Thread-safe. */
  TraceLog traces() {
    return traces;
  }

  /** Progress of the backfill. Thread-safe. */
  Fill.Progress progress() {
    return fill.progress();
  }

  /** Switches to another version of the definition. Thread-safe. */
  void redefine(IndexDefinition other) {
    definition = other;
    writer.redefine(other);
    guard.limit(other.mostRemoved());
  }

  /** Approves held removals. Thread-safe. */
  void agree() {
    guard.agree();
  }

  /** Commits visible documents with their position, if no batch is half written. */
  void commitVisible() throws IOException {
    if (position != null
        && !unrefreshed
        && (commits.hasUncommitted()
            || !position.equals(committed)
            || folder.committed() < folder.snapshot().number())) {
      refresh();
      commit();
    }
  }

  /** Aborts all connections to the source. Thread-safe. */
  void abort() {
    capture.abort();
    RecordReader open = reader;
    if (open != null) {
      open.abort();
    }
  }

  /** Disconnects; the source may be different at the next connection. */
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
