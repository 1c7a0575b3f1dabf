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
  private static final long FIRST_PAUSE_MILLIS = 100;
  private static final long LONGEST_PAUSE_MILLIS = 5000;

  /** Between two tries after a failure that nobody foresaw, and of changes that are held back. */
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

  /** Whether to end a pause between two tries. */
  private volatile boolean woken;

  private volatile boolean gaveUp;

  private volatile @Nullable String problem;

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
    this.folder = folder;
    this.listener = listener;
    this.work = new FeedWork(settings, folder, quarantine, clock, stop, listener::caughtUp);
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

  /** Does the next piece of work. */
  void step()
      throws SourceUnavailableException, NotPreparedException, IOException, InterruptedException {
    work.step();
  }

  /**
   * Asks the feed to bring records up to date, whether they changed or not; it does so between two
   * batches of changes, also after a restart.
   */
  public void readAgain(Collection<RecordKey> keys) {
    work.readAgain(keys);
  }

  /**
   * Begins to note which of some records the feed brings up to date; may be called by any thread.
   */
  public Watch watch(Collection<String> keys) {
    return work.traces().watch(keys);
  }

  /** Whether a record is in quarantine, so that a document that it still has is stale. */
  public boolean isSetAside(String key) {
    return work.isSetAside(key);
  }

  /** What is visible is true up to here; null before the beginning. */
  public @Nullable Position position() {
    return work.visiblePosition();
  }

  /** The index says what the database said at this moment, or later; null if that is not known. */
  public @Nullable Instant trueAt() {
    return work.trueAt();
  }

  /** What the feed is at. */
  public FeedStatus.Phase phase() {
    return phase;
  }

  /** How the feed is doing. More than a search should ask for: lags are sorted. */
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

  /** The last changes, newest first. */
  public List<ChangeTrace> lastChanges(int count) {
    return work.traces().last(count);
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
    work.redefine(other);
    woken = true;
  }

  /** Lets documents be removed that were held back because they are so many. */
  public void agree() {
    work.agree();
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
    work.abort();
  }

  /** Commits what is visible and lets go of the source; only after {@link #run} has ended. */
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

  /** Lets go of the source without committing, as a crash would; only after {@link #run}. */
  void abandon() {
    work.letGo();
  }
}
