package org.mnemex.sync.feed;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Clock;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Keeps one edition true to its source.
 *
 * <h2>From nothing to live</h2>
 *
 * <p>First capture is prepared and its position P0 taken; then {@link Fill} writes records in key
 * order, and the changes since P0 are applied between portions. Records that changed after a
 * portion was read are left out of it, so a later write never carries an older state. After the
 * last portion the feed is live.
 *
 * <h2>What a checkpoint says</h2>
 *
 * <p>{@code position}: all changes up to it are applied to the records read so far; {@code phase}
 * and {@code after}: the progress of the backfill. Both are committed with the index data in one
 * manifest, so the feed continues from there after a crash. Changes that were applied but not
 * committed are applied again, which is harmless: records are always read in their current state.
 *
 * <p>{@code position} does not advance while {@link ChangeApplier} defers work.
 *
 * <h2>When the source is unreachable</h2>
 *
 * <p>The feed retries with growing pauses, states the reason in its status, and the edition keeps
 * answering. It treats any other failure the same way: the status never hides a stopped feed, and
 * no restart is needed once the cause is gone. The feed gives up only if the source no longer has
 * the changes since the position: then a new edition has to replace this one.
 *
 * <h2>When tables are changed</h2>
 *
 * <p>From time to time, and when the source reports a change of its tables, the feed checks that
 * they are the same tables with the columns it needs, and that their changes are captured. If
 * capture was interrupted, changes are lost, and the position with them.
 */
public final class Feed implements Runnable, AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Feed.class);
  private static final long FIRST_PAUSE_MILLIS = 100;
  private static final long LONGEST_PAUSE_MILLIS = 5000;

  /** The pause between retries after an unexpected failure, and of held changes. */
  private static final long LONGEST_FAILED_PAUSE_MILLIS = 60_000;

  private static final long FIRST_HELD_PAUSE_MILLIS = 1000;
  private static final long PAUSED_WAIT_MILLIS = 100;

  private volatile IndexDefinition definition;
  private final EditionFolder folder;
  private final Listener listener;
  private final CountDownLatch stop = new CountDownLatch(1);
  private final FeedWork work;
  private final Backoff backoff = new Backoff();

  private volatile FeedStatus.Phase phase = FeedStatus.Phase.STARTING;
  private volatile boolean paused;

  /** Whether to end the current pause. */
  private volatile boolean woken;

  private volatile boolean gaveUp;

  private volatile @Nullable String problem;

  /** Receives events of an edition, mostly of its feed on the feed's thread. */
  public interface Listener {
    /** It answers and follows. Only what is read has been compared with its checksums so far. */
    void opened();

    /** Changes became visible. */
    void refreshed();

    /** The backfill is done and all changes up to now are applied. */
    void caughtUp();

    /** The source no longer knows the changes since the feed's position. */
    void positionLost(String why);

    /** An unexpected failure. The feed retries; the edition may be damaged. */
    void failed(Throwable cause);
  }

  /** A feed for the folder of an edition; idle until {@link #run}. */
  public Feed(
      FeedSettings settings,
      EditionFolder folder,
      Quarantine quarantine,
      Clock clock,
      Listener listener) {
    this.definition = settings.definition();
    this.folder = folder;
    this.listener = listener;
    this.work = new FeedWork(settings, folder, quarantine, clock, stop, listener);
  }

  /** Whether the backfill is done, so that the edition holds every record. */
  public boolean isComplete() {
    return work.isFilled();
  }

  @Override
  public void run() {
    try {
      while (stop.getCount() > 0) {
        try {
          if (paused) {
            if (phase != FeedStatus.Phase.PAUSED) {
              phase = FeedStatus.Phase.PAUSED;
              work.letGo();
            }
            stop.await(PAUSED_WAIT_MILLIS, TimeUnit.MILLISECONDS);
            continue;
          }
          work.step();
          if (gaveUp) {
            return;
          }
          problem = null;
          phase = work.isFilled() ? FeedStatus.Phase.LIVE : FeedStatus.Phase.BACKFILL;
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
          work.letGo();
          listener.positionLost(String.valueOf(e.getMessage()));
          return;
        } catch (QuarantineFullException e) {
          report(FeedStatus.Phase.FAILED, e);
          pause(FIRST_HELD_PAUSE_MILLIS, LONGEST_FAILED_PAUSE_MILLIS);
        } catch (RuntimeException | Error e) {
          if (!String.valueOf(e.getMessage()).equals(problem)) {
            LOG.error("feed of index '{}' failed and retries", definition.name(), e);
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

  /** Disconnects from the source and waits before the next try, longer each time. */
  private void pause(long first, long longest) throws InterruptedException {
    work.letGo();
    long millis = backoff.next(first, longest);
    long end = Backoff.end(millis);
    woken = false;
    while (!woken && !paused && stop.getCount() > 0 && System.nanoTime() < end) {
      stop.await(Math.min(millis, PAUSED_WAIT_MILLIS), TimeUnit.MILLISECONDS);
    }
  }

  private static IOException noMemory() {
    return new IOException(
        "a change or record does not fit into memory (%d MB); it may contain a value of hundreds of megabytes. Start the service with more memory (-Xmx); it continues from here"
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

  /** Does the next piece of work. */
  void step()
      throws SourceUnavailableException, NotPreparedException, IOException, InterruptedException {
    work.step();
  }

  /**
   * Asks the feed to update records, whether they changed or not. It does so between batches of
   * changes, also after a restart.
   */
  public void readAgain(Collection<RecordKey> keys) {
    work.readAgain(keys);
  }

  /** Starts noting which of some records the feed updates. Thread-safe. */
  public Watch watch(Collection<String> keys) {
    return work.traces().watch(keys);
  }

  /** Whether a record is in quarantine, which makes its document stale. */
  public boolean isSetAside(String key) {
    return work.isSetAside(key);
  }

  /** How many records are in quarantine. */
  public int setAside() {
    return work.setAside();
  }

  /** The position that visible documents include; null before the start. */
  public @Nullable Position position() {
    return work.visiblePosition();
  }

  /** The index includes everything up to this moment, at least; null if unknown. */
  public @Nullable Instant trueAt() {
    return work.trueAt();
  }

  /** The phase of the feed. */
  public FeedStatus.Phase phase() {
    return phase;
  }

  /**
   * How far the fill of an edition is.
   *
   * @param done filled records
   * @param expected approximate total of records
   */
  public record Filled(long done, long expected) {}

  /** How far the fill is. */
  public Filled filled() {
    Fill.Progress progress = work.progress();
    return new Filled(progress.done(), progress.expected());
  }

  /** The status of the feed. Too costly for a search: it sorts lags. */
  public FeedStatus status() {
    Fill.Progress progress = work.progress();
    TraceLog traces = work.traces();
    return new FeedStatus(
        phase,
        problem,
        work.visiblePosition(),
        work.trueAt(),
        progress.done(),
        progress.expected(),
        progress.perSecond(),
        traces.total(),
        traces.lagMillis(0.5),
        traces.lagMillis(0.99));
  }

  /** Records updated so far. */
  public long changes() {
    return work.traces().total();
  }

  /** The last changes, newest first. */
  public List<ChangeTrace> lastChanges(int count) {
    return work.traces().last(count);
  }

  /** Pauses or resumes. The source keeps changes in the meantime. */
  public void pause(boolean stopped) {
    paused = stopped;
    wake();
  }

  /**
   * Switches to another version of the definition.
   *
   * @param other one that makes the same documents of the same records
   */
  public void redefine(IndexDefinition other) {
    definition = other;
    work.redefine(other);
    wake();
  }

  /** Approves held removals. */
  public void agree() {
    work.agree();
    wake();
  }

  /** The columns that are read, or null while unknown. */
  public @Nullable ReadColumns columns() {
    return FeedCheckpoint.columns(folder.snapshot().checkpoint());
  }

  /** Asks the feed to stop after its current step. */
  public void stop() {
    stop.countDown();
    work.wake();
  }

  /** Ends a pause between tries, or a wait for changes. */
  private void wake() {
    woken = true;
    work.wake();
  }

  /** Describes the state of a paused feed for people. */
  public void say(String what) {
    if (paused) {
      problem = what;
    }
  }

  /** Stops for good, because the edition is damaged. */
  public void giveUp(String why) {
    gaveUp = true;
    problem = why;
    phase = FeedStatus.Phase.STOPPED;
    stop();
  }

  /** Aborts the feed's connections. Thread-safe. */
  public void abort() {
    work.abort();
  }

  /** Commits visible documents and disconnects; only after {@link #run} has ended. */
  @Override
  public void close() throws IOException {
    try {
      if (!gaveUp) {
        work.commitVisible();
      }
    } finally {
      work.letGo();
    }
  }

  /** Disconnects without committing, as a crash would; only after {@link #run}. */
  void abandon() {
    work.letGo();
  }
}
