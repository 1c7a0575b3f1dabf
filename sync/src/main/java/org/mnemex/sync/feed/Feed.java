package org.mnemex.sync.feed;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Queue;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.Checkpoint;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

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
 * <h2>When the source is away</h2>
 *
 * <p>The feed tries again with growing pauses, says why in its status, and the edition goes on
 * answering. Only when the source no longer knows the changes since the position does the feed give
 * up: its edition then has to be replaced by a new one.
 */
public final class Feed implements Runnable, AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Feed.class);
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final int KEYS_PER_READ = 500;
  private static final int RECORDS_PER_COMMIT = 20_000;

  private static final Duration COMMIT_INTERVAL = Duration.ofSeconds(1);

  private static final Duration IDLE_COMMIT_INTERVAL = Duration.ofSeconds(10);

  /** Rarely: trimming takes the source's write lock for a moment. */
  private static final Duration TRIM_INTERVAL = Duration.ofSeconds(30);

  /** A changed table is noticed after so long at the latest; at once if a statement fails. */
  private static final Duration COLUMNS_INTERVAL = Duration.ofSeconds(30);

  private static final long FIRST_PAUSE_MILLIS = 100;
  private static final long LONGEST_PAUSE_MILLIS = 2000;
  private static final long PAUSED_WAIT_MILLIS = 100;

  /** Of one batch of few changes. */
  private static final int SMALL_SEGMENT_DOCUMENTS = 64;

  /** As many as wait for being merged if merging keeps up. */
  private static final int MOST_SMALL_SEGMENTS = 8;

  private static final long GATHER_MILLIS_A_SEGMENT = 20;
  private static final long MOST_GATHER_MILLIS = 200;

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

  private final Queue<RecordKey> asked = new ConcurrentLinkedQueue<>();

  private @Nullable RecordReader reader;
  private @Nullable ReadColumns columns;
  private boolean prepared;
  private @Nullable Position position;
  private @Nullable Position committed;
  private @Nullable Position trimmable;
  private long uncommitted;
  private boolean announcedLive;
  private boolean sawAll;
  private boolean unrefreshed;
  private boolean unrefreshedFill;
  private Instant lastCommit;
  private Instant lastTrim;
  private Instant lastColumnsCheck = Instant.EPOCH;

  private volatile FeedStatus.Phase phase = FeedStatus.Phase.STARTING;
  private volatile boolean paused;
  private volatile @Nullable String problem;
  private volatile @Nullable Instant trueAt;
  private volatile @Nullable Position visiblePosition;

  /** Is told what happens in a feed, from the feed's thread. */
  public interface Listener {
    /** The backfill is done and all changes up to now are applied. */
    void caughtUp();

    /** The source no longer knows the changes since the feed's position. */
    void positionLost(String why);
  }

  /**
   * @param readerName under which the source remembers what this feed still needs
   * @param origin what to fill the edition from; null for the database
   */
  public Feed(
      IndexDefinition definition,
      int edition,
      Source source,
      EditionFolder folder,
      Quarantine quarantine,
      Clock clock,
      String readerName,
      Pace pace,
      @Nullable StoredOrigin origin,
      Listener listener) {
    this.definition = definition;
    this.edition = edition;
    this.source = source;
    this.folder = folder;
    this.clock = clock;
    this.listener = listener;
    this.pace = pace;
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
            origin);
    this.capture = source.capture(readerName);
    this.guard = new RemovalGuard(definition.mostRemoved(), clock);
    this.lastCommit = clock.instant();
    this.lastTrim = Instant.EPOCH;
    resume(folder.snapshot().checkpoint());
  }

  private void resume(Checkpoint checkpoint) {
    Map<String, String> values = checkpoint.values();
    String text = values.get("position");
    if (text == null) {
      return;
    }
    position = Position.parse(text);
    committed = position;
    visiblePosition = position;
    fill.resume(values);
    String read = values.get("columns");
    columns = read == null ? null : JSON.readValue(read, ReadColumns.class);
    String time = values.get("time");
    trueAt = time == null ? null : Instant.parse(time);
  }

  /** Whether the backfill is done, so that the edition holds every record. */
  public boolean isComplete() {
    return fill.isDone();
  }

  @Override
  public void run() {
    long pause = FIRST_PAUSE_MILLIS;
    try {
      while (stop.getCount() > 0) {
        try {
          if (paused) {
            phase = FeedStatus.Phase.PAUSED;
            stop.await(PAUSED_WAIT_MILLIS, TimeUnit.MILLISECONDS);
            continue;
          }
          step();
          problem = null;
          phase = fill.isDone() ? FeedStatus.Phase.LIVE : FeedStatus.Phase.BACKFILL;
          pause = FIRST_PAUSE_MILLIS;
        } catch (RemovalsHeldException e) {
          report(FeedStatus.Phase.HELD, e);
          stop.await(PAUSED_WAIT_MILLIS, TimeUnit.MILLISECONDS);
        } catch (SourceUnavailableException
            | NotPreparedException
            | IOException
            | UncheckedIOException e) {
          report(FeedStatus.Phase.WAITING, e);
          // When the source is back it may not be what it was.
          prepared = false;
          if (stop.await(pause, TimeUnit.MILLISECONDS)) {
            return;
          }
          pause = Math.min(2 * pause, LONGEST_PAUSE_MILLIS);
        } catch (PositionLostException e) {
          report(FeedStatus.Phase.LOST, e);
          listener.positionLost(String.valueOf(e.getMessage()));
          return;
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } catch (OutOfMemoryError e) {
      LOG.error("feed of index '{}' stopped", definition.name(), e);
      report(
          FeedStatus.Phase.STOPPED,
          new IOException(
              "a change or record does not fit into memory (%d MB), so there may be a value of hundreds of megabytes in it; start the service with more (-Xmx), it goes on from here"
                  .formatted(Runtime.getRuntime().maxMemory() >> 20)));
    } catch (RuntimeException | Error e) {
      // Whatever it was, nobody may believe that changes are still followed.
      LOG.error("feed of index '{}' stopped", definition.name(), e);
      report(FeedStatus.Phase.STOPPED, e);
    }
  }

  private void report(FeedStatus.Phase now, Throwable cause) {
    String message = String.valueOf(cause.getMessage());
    if (!message.equals(problem)) {
      LOG.warn("feed of index '{}': {}", definition.name(), message);
    }
    problem = message;
    phase = now;
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
    } else if (Duration.between(lastColumnsCheck, clock.instant()).compareTo(COLUMNS_INTERVAL)
        >= 0) {
      checkColumns();
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
      int applied = applyChanges(pace.idleWait());
      // A batch that is not full had all there was: a source that never rests is caught up with,
      // too.
      if (applied < pace.batch() && (applied > 0 || sawAll) && !announcedLive) {
        commit();
        announcedLive = true;
        listener.caughtUp();
      }
      commitIfDue(applied == 0);
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
    if (small > MOST_SMALL_SEGMENTS) {
      long millis = (small - MOST_SMALL_SEGMENTS) * GATHER_MILLIS_A_SEGMENT;
      stop.await(Math.min(millis, MOST_GATHER_MILLIS), TimeUnit.MILLISECONDS);
    }
  }

  private void prepare() throws SourceUnavailableException, NotPreparedException {
    if (columns == null) {
      columns = fill.columns();
    }
    checkColumns();
    source.prepare(definition.shape().watchedColumns());
    if (position == null) {
      position = capture.now();
      capture.done(position);
    }
    if (!fill.isDone() && fill.isFromDatabase()) {
      fill.expect(reader().count());
    }
    prepared = true;
  }

  /** Whether the tables are still what they were when the edition was begun. */
  private void checkColumns() throws SourceUnavailableException {
    ReadColumns now = source.columns(definition.shape());
    if (columns == null) {
      columns = now;
    } else {
      ColumnsCheck.check(definition, columns, now);
    }
    lastColumnsCheck = clock.instant();
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
    uncommitted += fill.next(Objects.requireNonNull(position), columns, asked::addAll);
    // By time as well: a slow fill shall not begin anew after a crash, nor the source keep its log.
    if (fill.isDone()
        || uncommitted >= RECORDS_PER_COMMIT
        || uncommitted > 0 && sinceCommit().compareTo(IDLE_COMMIT_INTERVAL) >= 0) {
      unrefreshedFill = true;
      refresh();
      commit();
    }
    trimIfDue();
    if (fill.isDone()) {
      LOG.info("index '{}': edition {} is filled and catches up", definition.name(), edition);
    }
  }

  /** Applies a batch of changes; how many there were. */
  private int applyChanges(Duration wait)
      throws SourceUnavailableException, IOException, InterruptedException {
    Position from = position;
    if (from == null) {
      throw new IllegalStateException("not prepared");
    }
    Instant asked = clock.instant();
    Changes changes = capture.after(from, pace.batch(), wait);
    sawAll = changes.complete();
    if (changes.list().isEmpty()) {
      if (fill.isDone() && changes.complete()) {
        trueAt = asked;
      }
      position = changes.upTo();
      if (!unrefreshed) {
        visiblePosition = position;
      }
      return 0;
    }
    try {
      apply(changes, asked);
    } catch (SourceUnavailableException | IOException | RuntimeException e) {
      // What was handed out is not applied: the capture has to begin again at our position.
      capture.close();
      throw e;
    }
    return changes.list().size();
  }

  /**
   * Applies changes.
   *
   * @param asked when they were asked for
   */
  private void apply(Changes changes, Instant asked)
      throws SourceUnavailableException, IOException {
    Instant captured = clock.instant();
    if (unrefreshed) {
      // A batch that failed half-way is pending; records are compared with what is visible.
      refresh();
    }
    unrefreshed = true;
    List<Pending> pending = new ArrayList<>();
    for (Map.Entry<RecordKey, Change> entry : causes(changes.list()).entrySet()) {
      pending.add(new Pending(entry.getKey(), entry.getValue()));
    }
    for (int at = 0; at < pending.size(); at += KEYS_PER_READ) {
      apply(pending.subList(at, Math.min(pending.size(), at + KEYS_PER_READ)));
    }
    uncommitted += Math.max(1, pending.size());
    Position before = position;
    position = changes.upTo();
    try {
      refresh();
    } catch (IOException e) {
      // They are not there yet, so they are asked for again.
      position = before;
      throw e;
    }
    Instant visible = clock.instant();
    if (fill.isDone() && changes.complete()) {
      trueAt = asked;
    }
    traces.add(pending.stream().map(done -> done.trace(captured, visible)).toList());
  }

  /** Reads records again that somebody asked for. */
  private void applyAsked() throws SourceUnavailableException, IOException {
    Position now = Objects.requireNonNull(position);
    List<Pending> pending = new ArrayList<>();
    for (RecordKey key = asked.poll(); key != null; key = asked.poll()) {
      pending.add(new Pending(key, new Change("(audit)", Map.of(), clock.instant(), now)));
    }
    if (pending.isEmpty()) {
      return;
    }
    unrefreshed = true;
    try {
      for (int at = 0; at < pending.size(); at += KEYS_PER_READ) {
        apply(pending.subList(at, Math.min(pending.size(), at + KEYS_PER_READ)));
      }
    } catch (SourceUnavailableException e) {
      // Reading a record again does no harm, forgetting one does.
      pending.forEach(one -> asked.add(one.key));
      throw e;
    }
    uncommitted += pending.size();
    refresh();
  }

  /**
   * Asks the feed to bring records up to date, whether they changed or not; it does so between two
   * batches of changes.
   */
  public void readAgain(Collection<RecordKey> keys) {
    asked.addAll(keys);
  }

  /** The records that changes affect, each with the first change that does. */
  private Map<RecordKey, Change> causes(List<Change> changes) throws SourceUnavailableException {
    Map<String, List<Change>> byTable = new LinkedHashMap<>();
    changes.forEach(
        change -> byTable.computeIfAbsent(change.table(), t -> new ArrayList<>()).add(change));
    Map<RecordKey, Change> causes = new LinkedHashMap<>();
    for (List<Change> ofTable : byTable.values()) {
      Set<RecordKey> keys = reader().affected(ofTable);
      keys.forEach(key -> causes.putIfAbsent(key, ofTable.getFirst()));
    }
    return causes;
  }

  private void apply(List<Pending> pending) throws SourceUnavailableException, IOException {
    Collection<RecordKey> keys = pending.stream().map(p -> p.key).toList();
    Records records = reader().read(keys);
    Instant read = clock.instant();
    Map<RecordKey, AssembledRecord> found = new HashMap<>();
    records.found().forEach(record -> found.put(record.key(), record));
    Snapshot snapshot = folder.snapshot();
    int removed = 0;
    for (RecordKey key : keys) {
      boolean remains = found.containsKey(key) || records.unreadable().containsKey(key);
      removed += remains || snapshot.hash(key.text()) == null ? 0 : 1;
    }
    guard.remove(removed, snapshot.documents());
    Map<RecordKey, DocumentMapper.Mapping> mapped = mapper.mapAll(found.values());
    for (Pending one : pending) {
      one.read = read;
      DocumentMapper.Mapping mapping = mapped.get(one.key);
      String unreadable = records.unreadable().get(one.key);
      if (mapping != null) {
        one.outcome = writer.put(one.key.text(), mapping, !fill.isDone());
      } else if (unreadable != null) {
        one.outcome = writer.setAside(one.key.text(), unreadable);
      } else {
        one.outcome = writer.remove(one.key.text());
      }
      one.mapped = clock.instant();
      fill.changed(one.key.text());
    }
  }

  private void refresh() throws IOException {
    Map<String, String> values = new TreeMap<>();
    values.put("position", String.valueOf(position));
    fill.note(values);
    values.put("time", clock.instant().toString());
    if (columns != null) {
      values.put("columns", JSON.writeValueAsString(columns));
    }
    folder.refresh(new Checkpoint(values));
    visiblePosition = position;
    unrefreshed = false;
    unrefreshedFill = false;
  }

  private void commitIfDue(boolean idle) throws IOException, SourceUnavailableException {
    Duration since = sinceCommit();
    boolean due = since.compareTo(COMMIT_INTERVAL) >= 0 || uncommitted >= RECORDS_PER_COMMIT;
    if (uncommitted > 0 && (due || idle)) {
      commit();
    } else if (idle
        && !Objects.equals(position, committed)
        && since.compareTo(IDLE_COMMIT_INTERVAL) >= 0) {
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

  private Duration sinceCommit() {
    return Duration.between(lastCommit, clock.instant());
  }

  private void commit() throws IOException {
    folder.commit();
    // One commit behind, so that the manifest before this one stays usable as well.
    trimmable = committed;
    committed = position;
    uncommitted = 0;
    lastCommit = clock.instant();
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
  }

  /** Lets documents be removed that were held back because they are so many. */
  public void agree() {
    guard.agree();
  }

  /** What is read of the tables, or null while that is not known. */
  public @Nullable ReadColumns columns() {
    String read = folder.snapshot().checkpoint().values().get("columns");
    return read == null ? null : JSON.readValue(read, ReadColumns.class);
  }

  /** Asks the feed to end after its current step. */
  public void stop() {
    stop.countDown();
  }

  /** Tells the source that this feed will not come back; only after {@link #run} has ended. */
  public void leave() {
    try {
      capture.leave();
    } catch (SourceUnavailableException e) {
      LOG.warn(
          "source '{}' could not be told that a feed has ended: {}", source.name(), e.getMessage());
    }
  }

  /** Commits what is visible and lets go of the source; only after {@link #run} has ended. */
  @Override
  public void close() throws IOException {
    try {
      if (position != null && !unrefreshed && (uncommitted > 0 || !position.equals(committed))) {
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

  /** A record that changes of a batch affect. */
  private static final class Pending {
    final RecordKey key;
    final Change cause;
    Instant read = Instant.EPOCH;
    Instant mapped = Instant.EPOCH;
    ChangeTrace.Outcome outcome = ChangeTrace.Outcome.UNCHANGED;

    Pending(RecordKey key, Change cause) {
      this.key = key;
      this.cause = cause;
    }

    ChangeTrace trace(Instant captured, Instant visible) {
      return new ChangeTrace(
          key.text(),
          cause.table(),
          outcome,
          cause.position(),
          cause.at(),
          captured,
          read,
          mapped,
          visible);
    }
  }
}
