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
 * Reads all records in key order, ahead of the consumer.
 *
 * <p>Several workers, each with its own reader, take the next range of keys, read its records and
 * process them. A query over keys alone cuts the ranges in order, and portions are handed out in
 * the same order. At most a few portions wait, however slow the consumer is.
 *
 * @param <T> the result of processing a portion
 */
public final class RecordScan<T> implements AutoCloseable {
  /** We share the database's processors. */
  private static final int MAX_WORKERS = 4;

  /** A hanging read ends when its connection times out. */
  private static final Duration CLOSE_WAIT = Duration.ofSeconds(10);

  private final int portionSize;
  private final LongSupplier stamp;
  private final Function<Records, T> work;
  private final BlockingQueue<Future<Portion<T>>> portions;
  private final List<Thread> workers = new ArrayList<>();
  private final ReentrantLock taking = new ReentrantLock();

  // Guarded by the lock.
  private @Nullable RecordKey after;
  private boolean taken;
  private long due = System.nanoTime();

  private volatile long nanosPerRecord;

  /**
   * A range of keys.
   *
   * @param stamp the scan's stamp before its records were read; it does not fall
   * @param made the result of processing its records
   * @param rows how many root rows were read
   * @param last the last key of the range, null if it is empty
   * @param isLast whether it is the last
   */
  public record Portion<T>(
      long stamp, T made, int rows, @Nullable RecordKey last, boolean isLast) {}

  private record Range<T>(
      long stamp,
      @Nullable RecordKey after,
      @Nullable RecordKey upTo,
      CompletableFuture<Portion<T>> portion) {}

  /**
   * Starts reading.
   *
   * @param readers opens a reader for each worker, which closes it
   * @param from the key after which to start, null for all
   * @param portionSize approximate number of records in a portion
   * @param recordsPerSecond maximum rate, 0 for no limit
   * @param stamp read before each portion; must not fall
   * @param work processes the records; called by several threads
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

  /** Changes the maximum rate in records per second; 0 for no limit. */
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
      // The consumer must not wait for a portion that no worker reads.
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
      // An error in a worker must not leave the consumer waiting for this portion.
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
   * The next portion, or null if none is ready in time.
   *
   * @throws SourceUnavailableException if it could not be read; start a new scan
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
