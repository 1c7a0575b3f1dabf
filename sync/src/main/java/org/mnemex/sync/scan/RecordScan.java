package org.mnemex.sync.scan;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Function;
import java.util.function.LongSupplier;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Reads all records in key order, ahead of the one who takes them.
 *
 * <p>Each of several workers, with a reader of its own, takes the next range of keys, reads its
 * records and makes something of them. Ranges are taken one after the other, by a query that only
 * passes over keys, and handed out in the same order, so whoever takes the portions sees one
 * straight walk through the keys. A few portions wait at most, however slowly they are taken.
 *
 * @param <T> what is made of a portion's records
 */
public final class RecordScan<T> implements AutoCloseable {
  /** The database's processors are not ours alone. */
  private static final int MAX_WORKERS = 4;

  /** A read that hangs ends by itself when its connection times out. */
  private static final Duration CLOSE_WAIT = Duration.ofSeconds(10);

  private final int portionSize;
  private final LongSupplier stamp;
  private final Function<Records, T> work;
  private final BlockingQueue<Future<Portion<T>>> portions;
  private final List<Thread> workers = new ArrayList<>();
  private final ReentrantLock taking = new ReentrantLock();

  // Under the lock.
  private @Nullable RecordKey after;
  private boolean taken;
  private long due = System.nanoTime();

  private volatile long nanosPerRecord;

  /**
   * A range of keys.
   *
   * @param stamp what the scan's stamp was before its records were read; later portions have no
   *     lower one
   * @param made what was made of its records
   * @param rows how many root rows were read
   * @param last the last key of the range, null if it is empty
   * @param isLast whether there are no rows behind it
   */
  public record Portion<T>(
      long stamp, T made, int rows, @Nullable RecordKey last, boolean isLast) {}

  private record Range<T>(
      long stamp,
      @Nullable RecordKey after,
      @Nullable RecordKey upTo,
      CompletableFuture<Portion<T>> portion) {}

  /**
   * Begins to read.
   *
   * @param readers makes a reader for each worker, which closes it
   * @param from the key behind which to begin, null for all
   * @param portionSize records in a portion, nearly
   * @param recordsPerSecond how many to read at most, 0 for no limit
   * @param stamp asked before a portion is read; must not fall
   * @param work what to make of the records; called by several threads
   * @param name of the threads
   */
  public RecordScan(
      Supplier<RecordReader> readers,
      @Nullable RecordKey from,
      int portionSize,
      int recordsPerSecond,
      LongSupplier stamp,
      Function<Records, T> work,
      String name) {
    this.portionSize = portionSize;
    this.stamp = stamp;
    this.work = work;
    this.after = from;
    limit(recordsPerSecond);
    int count = Math.clamp(Runtime.getRuntime().availableProcessors(), 1, MAX_WORKERS);
    this.portions = new ArrayBlockingQueue<>(count + 1);
    for (int i = 1; i <= count; i++) {
      Thread.Builder.OfPlatform thread = Thread.ofPlatform().name("scan-" + name + "-" + i);
      workers.add(thread.daemon().unstarted(() -> read(readers)));
    }
    workers.forEach(Thread::start);
  }

  /** Changes how many records are read a second at most; 0 for no limit. */
  public void limit(int recordsPerSecond) {
    nanosPerRecord = recordsPerSecond == 0 ? 0 : 1_000_000_000L / recordsPerSecond;
  }

  private void read(Supplier<RecordReader> readers) {
    try (RecordReader reader = readers.get()) {
      for (Range<T> range = take(reader); range != null; range = take(reader)) {
        read(reader, range);
      }
    } catch (InterruptedException e) {
      // Closed.
      Thread.currentThread().interrupt();
    } catch (RuntimeException | Error e) {
      // The consumer must not wait for a portion that nobody reads.
      fail(e);
    }
  }

  private void fail(Throwable cause) {
    try {
      portions.put(CompletableFuture.failedFuture(cause));
    } catch (InterruptedException e) {
      // Closed.
      Thread.currentThread().interrupt();
    }
  }

  private void read(RecordReader reader, Range<T> range) {
    try {
      Records records = reader.readBetween(range.after, range.upTo);
      RecordKey last = range.upTo == null ? records.last() : range.upTo;
      range.portion.complete(
          new Portion<>(
              range.stamp, work.apply(records), records.rows(), last, range.upTo == null));
    } catch (SourceUnavailableException | RuntimeException | Error e) {
      // An error in a worker must not leave the taker waiting for this portion.
      range.portion.completeExceptionally(e);
    }
  }

  /** The next range, or null if there is none. */
  private @Nullable Range<T> take(RecordReader reader) throws InterruptedException {
    taking.lockInterruptibly();
    try {
      if (taken) {
        return null;
      }
      TimeUnit.NANOSECONDS.sleep(due - System.nanoTime());
      due = Math.max(due, System.nanoTime()) + nanosPerRecord * portionSize;
      Range<T> range;
      try {
        RecordKey upTo = reader.skip(after, portionSize);
        range = new Range<>(stamp.getAsLong(), after, upTo, new CompletableFuture<>());
        taken = upTo == null;
        after = upTo;
      } catch (SourceUnavailableException | RuntimeException | Error e) {
        taken = true;
        portions.put(CompletableFuture.failedFuture(e));
        return null;
      }
      portions.put(range.portion);
      return range;
    } finally {
      taking.unlock();
    }
  }

  /**
   * The next portion, or null if there is none in time.
   *
   * @throws SourceUnavailableException if it could not be read; a new scan has to be begun
   */
  public @Nullable Portion<T> next(Duration wait)
      throws SourceUnavailableException, InterruptedException {
    Future<Portion<T>> future = portions.poll(wait.toNanos(), TimeUnit.NANOSECONDS);
    if (future == null) {
      return null;
    }
    try {
      return future.get();
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case SourceUnavailableException unavailable -> throw unavailable;
        case RuntimeException failure -> throw failure;
        case Error error -> throw error;
        default -> throw new IllegalStateException(e.getCause());
      }
    }
  }

  @Override
  public void close() {
    workers.forEach(Thread::interrupt);
    try {
      for (Thread worker : workers) {
        worker.join(CLOSE_WAIT);
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }
}
