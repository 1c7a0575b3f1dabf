package org.mnemex.sync.edition;

import java.io.IOException;
import java.time.Duration;
import java.util.Queue;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Consumer;
import java.util.function.LongConsumer;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.error.DamagedFileException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Merges the segments of an edition beside its feed, whenever it was told that there are new ones.
 */
final class Merging {
  private static final Logger LOG = LoggerFactory.getLogger(Merging.class);

  /** Segments of several refreshes are looked at together. */
  private static final Duration PAUSE = Duration.ofMillis(200);

  /** While the index changes or is filled, its feed commits before that. */
  static final Duration COMMIT_PAUSE = Duration.ofSeconds(15);

  /** A service that starts has more urgent things to do. */
  private static final Duration START_PAUSE = Duration.ofSeconds(10);

  private static final Duration FAILED_PAUSE = Duration.ofSeconds(2);
  private static final Duration LONGEST_PAUSE = Duration.ofMinutes(1);

  private final EditionFolder folder;
  private final Supplier<String> index;
  private final Consumer<Throwable> failed;
  private final Duration commitPause;
  private final OnDemandThread thread;
  private final AtomicBoolean due = new AtomicBoolean();
  private final Queue<FutureTask<Integer>> compactions = new ConcurrentLinkedQueue<>();
  private volatile Duration pause = PAUSE;

  /** The number of a snapshot with all that was merged. */
  private volatile long merged;

  /** When the first merge that was not durable yet ended, by the system's clock of intervals. */
  private volatile long mergedAt;

  private volatile boolean stopping;
  private volatile @Nullable String problem;

  /**
   * @param name of the thread
   * @param index the current name of the index, for messages
   * @param failed told about failures that a damaged file may have caused
   * @param commitPause from the end of a merge until it is committed, if nobody else commits
   */
  Merging(
      EditionFolder folder,
      String name,
      Supplier<String> index,
      Consumer<Throwable> failed,
      Duration commitPause) {
    this.folder = folder;
    this.index = index;
    this.failed = failed;
    this.commitPause = commitPause;
    this.thread = new OnDemandThread(name);
  }

  /** Why merging is suspended, or null. */
  @Nullable String problem() {
    return problem;
  }

  /** Says that there may be something to merge. Thread-safe, and costs next to nothing. */
  void wake() {
    if (!stopping && due.compareAndSet(false, true)) {
      thread.runAfter(pause, this::merge);
    }
  }

  /** Looks for something to merge, once all indexes had time to open. */
  void start() {
    thread.runAfter(START_PAUSE, this::wake);
  }

  private void merge() {
    due.set(false);
    try {
      while (!stopping && folder.mergeStep() > 0) {
        noteMerged();
        problem = null;
      }
      if (folder.committed() < merged && System.nanoTime() - mergedAt >= commitPause.toNanos()) {
        // Nothing changes any more: the former files would stay, and a new start would merge again.
        commitTwice();
      }
      problem = null;
      pause = PAUSE;
    } catch (IOException | RuntimeException | Error e) {
      pause = pause.equals(PAUSE) ? FAILED_PAUSE : shorter(pause.multipliedBy(2), LONGEST_PAUSE);
      report(e);
      wake();
    }
  }

  private void noteMerged() {
    if (folder.committed() >= merged) {
      mergedAt = System.nanoTime();
      thread.runAfter(commitPause, this::wake);
    }
    merged = folder.snapshot().number();
  }

  /** Only after the second commit no manifest names the former files any more. */
  private void commitTwice() throws IOException {
    folder.commit();
    folder.commit();
  }

  private static Duration shorter(Duration a, Duration b) {
    return a.compareTo(b) < 0 ? a : b;
  }

  private void report(Throwable cause) {
    String message = "segments are not merged: " + cause.getMessage();
    if (!message.equals(problem)) {
      LOG.warn("index '{}': {}; trying again", index.get(), message, cause);
    }
    problem = message;
    if (!(cause instanceof IOException)) {
      // Most I/O errors are a full disk, which may recover.
      failed.accept(cause);
    }
  }

  /**
   * Merges all segments into one, leaves out what is deleted, and gives its room back at once.
   * Waits until it is done.
   *
   * @param written told how many bytes are written; what it throws stops the work without a trace
   * @return how many documents were copied; 0 if there was nothing to do
   * @throws IOException if a file cannot be written, such as on a full disk
   * @throws CancellationException if the edition is closed meanwhile
   */
  int compact(LongConsumer written) throws IOException, InterruptedException {
    FutureTask<Integer> compaction = new FutureTask<>(() -> compactNow(written));
    compactions.add(compaction);
    if (!thread.run(compaction) || stopping) {
      compaction.cancel(false);
    }
    try {
      return compaction.get();
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case IOException cause -> throw cause;
        case RuntimeException cause -> throw cause;
        case Error cause -> throw cause;
        case null, default -> throw new IllegalStateException(e.getCause());
      }
    } finally {
      compactions.remove(compaction);
    }
  }

  private int compactNow(LongConsumer written) throws IOException {
    try {
      int copied =
          folder.compact(
              bytes -> {
                if (stopping) {
                  throw new CancellationException();
                }
                written.accept(bytes);
              });
      if (copied > 0) {
        commitTwice();
      }
      return copied;
    } catch (DamagedFileException | InternalError e) {
      failed.accept(e);
      throw e;
    }
  }

  /** Starts no further merge and lets the current one finish. */
  void stop() {
    stopping = true;
    thread.stop();
    compactions.forEach(compaction -> compaction.cancel(false));
  }

  /** Interrupts the current merge. */
  void interrupt() {
    thread.interrupt();
  }

  /**
   * Waits for the current merge to finish, after {@link #stop}.
   *
   * @param wait the longest time to wait; zero for no limit
   * @return whether it has finished
   */
  boolean hasEnded(Duration wait) throws InterruptedException {
    return thread.hasEnded(wait);
  }
}
