package org.mnemex.sync.feed;

import java.io.IOException;
import java.io.UncheckedIOException;
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
 * Keeps one edition true to its source.
 *
 * <h2>From nothing to live</h2>
 *
 * <p>First capturing is prepared and its position P0 taken, then {@link Fill} writes records in key
 * order, and between any two portions the changes since P0 are applied. Of a portion that was read
 * before a change was applied, the changed records are left out, so a later write never carries an
 * older state. When the last portion is in, the feed is live.
 *
 * <h2>What a checkpoint says</h2>
 *
 * <p>{@code position}: all changes up to it are applied to the records that were read so far;
 * {@code phase} and {@code after}: how far the backfill is. Both are committed with the index data
 * in one manifest, so after a crash the feed continues from there. Changes that were applied but
 * not committed are applied again, which does no harm: a record is always read as it is now.
 *
 * <p>{@code position} stays behind what was handed out while {@link ChangeApplier} puts something
 * off.
 *
 * <h2>When the source is away</h2>
 *
 * <p>The feed tries again with growing pauses, says why in its status, and the edition goes on
 * answering. It does so after any other failure, too: nobody may believe that changes are followed
 * when they are not, and nobody has to start the service again when the cause has gone. Only when
 * the source no longer knows the changes since the position does the feed give up: its edition then
 * has to be replaced by a new one.
 *
 * <h2>When tables are changed</h2>
 *
 * <p>Now and then, and when the source tells of a change of its tables, the feed looks whether they
 * are still the same tables with what it needs, and whether their changes are still captured. If
 * that was not so for a moment, changes of that moment are lost, and the position with them.
 */
public final class Feed implements Runnable, AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Feed.class);
  private static final int ASKED_AT_ONCE = 500;

  /** Rarely: trimming takes the source's write lock for a moment. */
  private static final Duration TRIM_INTERVAL = Duration.ofSeconds(30);

  /** A changed table is noticed after so long at the latest; at once if a statement fails. */
  private static final Duration TABLES_INTERVAL = Duration.ofSeconds(30);

  private static final long FIRST_PAUSE_MILLIS = 100;
  private static final long LONGEST_PAUSE_MILLIS = 5000;

  /** Between two tries after a failure that nobody foresaw, and of changes that are held back. */
  private static final long LONGEST_FAILED_PAUSE_MILLIS = 60_000;

  private static final long FIRST_HELD_PAUSE_MILLIS = 1000;
  private static final long PAUSED_WAIT_MILLIS = 100;

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
  private final Listener listener;
  private final DocumentMapper mapper;
  private final RecordWriter writer;
  private final Fill fill;
  private final Source.Capture capture;
  private final RemovalGuard guard;
  private final Pace pace;
  private final TraceLog traces = new TraceLog();
  private final CountDownLatch stop = new CountDownLatch(1);
  private final Quarantine waiting;
  private final ChangeApplier applier;
  private final CommitSchedule commits;
  private final Backoff backoff = new Backoff();

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
  private Instant lastTrim;
  private Instant lastTablesCheck = Instant.EPOCH;

  private volatile FeedStatus.Phase phase = FeedStatus.Phase.STARTING;
  private volatile boolean paused;

  /** Whether somebody may have asked for records to be read again. */
  private volatile boolean asked = true;

  /** Whether a pause between two tries shall end. */
  private volatile boolean woken;

  private volatile boolean gaveUp;

  private volatile @Nullable String problem;
  private volatile @Nullable Instant trueAt;
  private volatile @Nullable Position visiblePosition;

  /** Is told what happens in a feed, from the feed's thread. */
  public interface Listener {
    /** The backfill is done and all changes up to now are applied. */
    void caughtUp();

    /** The source no longer knows the changes since the feed's position. */
    void positionLost(String why);

    /**
     * Something failed that should not. The feed tries again by itself; what it reads may be
     * damaged.
     */
    void failed(Throwable cause);
  }

  /** A feed that writes into the folder of an edition; it does nothing before {@link #run}. */
  public Feed(
      FeedSettings settings,
      EditionFolder folder,
      Quarantine quarantine,
      Clock clock,
      Listener listener) {
    this.definition = settings.definition();
    this.edition = settings.edition();
    this.source = settings.source();
    this.pace = settings.pace();
    this.folder = folder;
    this.clock = clock;
    this.listener = listener;
    this.mapper = new DocumentMapper(definition);
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
    this.lastTrim = Instant.EPOCH;
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

  /** Whether the backfill is done, so that the edition holds every record. */
  public boolean isComplete() {
    return fill.isDone();
  }

  @Override
  public void run() {
    try {
      while (stop.getCount() > 0) {
        try {
          if (paused) {
            if (phase != FeedStatus.Phase.PAUSED) {
              phase = FeedStatus.Phase.PAUSED;
              prepared = false;
              letGo();
            }
            stop.await(PAUSED_WAIT_MILLIS, TimeUnit.MILLISECONDS);
            continue;
          }
          step();
          if (gaveUp) {
            return;
          }
          problem = null;
          phase = fill.isDone() ? FeedStatus.Phase.LIVE : FeedStatus.Phase.BACKFILL;
          backoff.reset();
        } catch (RemovalsHeldException e) {
          report(FeedStatus.Phase.HELD, e);
          pause(FIRST_HELD_PAUSE_MILLIS, LONGEST_FAILED_PAUSE_MILLIS);
        } catch (SourceUnavailableException
            | NotPreparedException
            | IOException
            | UncheckedIOException e) {
          report(FeedStatus.Phase.WAITING, e);
          pause(FIRST_PAUSE_MILLIS, LONGEST_PAUSE_MILLIS);
        } catch (PositionLostException e) {
          report(FeedStatus.Phase.LOST, e);
          letGo();
          listener.positionLost(String.valueOf(e.getMessage()));
          return;
        } catch (TooManyAsideException e) {
          report(FeedStatus.Phase.FAILED, e);
          pause(FIRST_HELD_PAUSE_MILLIS, LONGEST_FAILED_PAUSE_MILLIS);
        } catch (RuntimeException | Error e) {
          if (!String.valueOf(e.getMessage()).equals(problem)) {
            LOG.error("feed of index '{}' failed and tries again", definition.name(), e);
          }
          report(FeedStatus.Phase.FAILED, e instanceof OutOfMemoryError ? noMemory() : e);
          listener.failed(e);
          pause(FIRST_HELD_PAUSE_MILLIS, LONGEST_FAILED_PAUSE_MILLIS);
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  /** Lets go of the source and waits before the next try, longer than before it. */
  private void pause(long first, long longest) throws InterruptedException {
    // When the source is back it may not be what it was.
    prepared = false;
    letGo();
    long millis = backoff.next(first, longest);
    long end = Backoff.end(millis);
    woken = false;
    while (!woken && !paused && stop.getCount() > 0 && System.nanoTime() < end) {
      stop.await(Math.min(millis, PAUSED_WAIT_MILLIS), TimeUnit.MILLISECONDS);
    }
  }

  private static IOException noMemory() {
    return new IOException(
        "a change or record does not fit into memory (%d MB), so there may be a value of hundreds of megabytes in it; start the service with more (-Xmx), it goes on from here"
            .formatted(Runtime.getRuntime().maxMemory() >> 20));
  }

  private void report(FeedStatus.Phase now, Throwable cause) {
    String message = String.valueOf(cause.getMessage());
    if (!message.equals(problem)) {
      LOG.warn("feed of index '{}': {}", definition.name(), message);
    }
    if (!gaveUp) {
      problem = message;
      phase = now;
    }
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
        listener.caughtUp();
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
        // Whoever made it again now would not know of what was changed without it.
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

  /**
   * Asks the feed to bring records up to date, whether they changed or not; it does so between two
   * batches of changes, also after a restart.
   */
  public void readAgain(Collection<RecordKey> keys) {
    waiting.ask(definition.keptAs(), edition, keys.stream().map(RecordKey::text).toList());
    asked = true;
  }

  /**
   * Begins to note which of some records the feed brings up to date; may be called by any thread.
   */
  public Watch watch(Collection<String> keys) {
    return traces.watch(keys);
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

  /** Whether a record is in quarantine, so that a document that it still has is stale. */
  public boolean isSetAside(String key) {
    return writer.isSetAside(key);
  }

  /** What is visible is true up to here; null before the beginning. */
  public @Nullable Position position() {
    return visiblePosition;
  }

  /** The index says what the database said at this moment, or later; null if that is not known. */
  public @Nullable Instant trueAt() {
    return trueAt;
  }

  /** What the feed is at. */
  public FeedStatus.Phase phase() {
    return phase;
  }

  /** How the feed is doing. More than a search should ask for: lags are sorted. */
  public FeedStatus status() {
    long[] progress = fill.progress();
    return new FeedStatus(
        phase,
        problem,
        visiblePosition,
        trueAt,
        progress[0],
        progress[1],
        progress[2] == 0 ? 0 : progress[0] * 1_000_000_000L / progress[2],
        traces.total(),
        traces.lagMillis(0.5),
        traces.lagMillis(0.99));
  }

  /** The last changes, newest first. */
  public List<ChangeTrace> lastChanges(int count) {
    return traces.last(count);
  }

  /** Stops following for a while, or goes on with it. The source keeps changes in the meantime. */
  public void pause(boolean stopped) {
    paused = stopped;
    woken = true;
  }

  /**
   * Takes another version of the definition from now on.
   *
   * @param other one that makes the same documents of the same records
   */
  public void redefine(IndexDefinition other) {
    definition = other;
    writer.redefine(other);
    guard.limit(other.mostRemoved());
    woken = true;
  }

  /** Lets documents be removed that were held back because they are so many. */
  public void agree() {
    guard.agree();
    woken = true;
  }

  /** What is read of the tables, or null while that is not known. */
  public @Nullable ReadColumns columns() {
    return FeedCheckpoint.columns(folder.snapshot().checkpoint());
  }

  /** Asks the feed to end after its current step. */
  public void stop() {
    stop.countDown();
  }

  /** Says what a person should know of a feed that somebody has paused. */
  public void say(String what) {
    if (paused) {
      problem = what;
    }
  }

  /** Ends for good, because what it writes into is damaged. */
  public void giveUp(String why) {
    gaveUp = true;
    problem = why;
    phase = FeedStatus.Phase.STOPPED;
    stop();
  }

  /** Cuts the feed off from its source, whatever it is waiting for; may be called by any thread. */
  public void abort() {
    capture.abort();
    RecordReader open = reader;
    if (open != null) {
      open.abort();
    }
  }

  /** Commits what is visible and lets go of the source; only after {@link #run} has ended. */
  @Override
  public void close() throws IOException {
    try {
      if (position != null
          && !gaveUp
          && !unrefreshed
          && (commits.hasUncommitted() || !position.equals(committed))) {
        // What was written is visible and durable together with the position that it is true for.
        refresh();
        commit();
      }
    } finally {
      letGo();
    }
  }

  private void letGo() {
    fill.close();
    capture.close();
    RecordReader open = reader;
    if (open != null) {
      open.close();
    }
  }

  /** Lets go of the source without committing, as a crash would; only after {@link #run}. */
  void abandon() {
    letGo();
  }
}
