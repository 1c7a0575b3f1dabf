package org.mnemex.sync.feed;

import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.Document;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Reads and maps all records in key order, ahead of the feed that writes them.
 *
 * <h2>Read stamps</h2>
 *
 * <p>While a portion waits, the feed applies changes that were read after it, and the portion must
 * not put an older state over them. So each portion carries the stamp that stood before its records
 * were read, every record that a change brings up to date is noted with {@link #changed} under a
 * higher one, and what is noted above a portion's stamp is left out of it. That may leave out a
 * newer state as well; the change that made it newer will come.
 *
 * <p>One thread reads, as many as there are processors map. A few portions wait at most, however
 * far the writer is behind.
 */
final class Backfill implements AutoCloseable {
  private static final int WAITING_PORTIONS = 3;

  /** A read that hangs ends by itself when its connection times out. */
  private static final Duration CLOSE_WAIT = Duration.ofSeconds(10);

  private final RecordReader reader;
  private final DocumentMapper mapper;
  private final int portionSize;
  private final BlockingQueue<Future<Portion>> portions =
      new ArrayBlockingQueue<>(WAITING_PORTIONS);
  private final ExecutorService mapping;
  private final Thread reading;

  /** What changes have brought up to date, lowest stamp first. Of the feed's thread. */
  private final LinkedHashMap<String, Long> changed = new LinkedHashMap<>();

  private volatile long stamp;
  private volatile long nanosPerRecord;

  /**
   * A portion as the feed writes it.
   *
   * @param documents without those that changes have overtaken
   * @param problems why a record has no document, by its key's text
   * @param rows how many root rows were read
   * @param last the last key in order, or null if there were no rows
   * @param isLast whether there are no rows behind it
   */
  record Portion(
      long stamp,
      List<Document> documents,
      Map<String, String> problems,
      int rows,
      @Nullable RecordKey last,
      boolean isLast) {}

  /**
   * Begins to read.
   *
   * @param reader closed with this
   * @param after the key behind which to begin, null for all
   * @param portionSize records in a portion
   * @param recordsPerSecond how many to read at most, 0 for no limit
   */
  Backfill(
      RecordReader reader,
      DocumentMapper mapper,
      @Nullable RecordKey after,
      int portionSize,
      int recordsPerSecond,
      String name) {
    this.reader = reader;
    this.mapper = mapper;
    this.portionSize = portionSize;
    limit(recordsPerSecond);
    this.mapping =
        Executors.newFixedThreadPool(
            Runtime.getRuntime().availableProcessors(),
            Thread.ofPlatform().name("map-" + name + "-", 1).daemon().factory());
    this.reading = Thread.ofPlatform().name("read-" + name).daemon().start(() -> read(after));
  }

  /** Changes how many records are read a second at most; 0 for no limit. */
  void limit(int recordsPerSecond) {
    nanosPerRecord = recordsPerSecond == 0 ? 0 : 1_000_000_000L / recordsPerSecond;
  }

  private void read(@Nullable RecordKey from) {
    RecordKey after = from;
    try (reader) {
      boolean more = true;
      while (more) {
        long start = System.nanoTime();
        long before = stamp;
        Records records;
        try {
          records = reader.readAfter(after, portionSize);
        } catch (SourceUnavailableException | RuntimeException e) {
          portions.put(CompletableFuture.failedFuture(e));
          return;
        }
        boolean isLast = records.rows() < portionSize;
        portions.put(mapping.submit(() -> map(records, before, isLast)));
        after = records.last();
        more = !isLast;
        TimeUnit.NANOSECONDS.sleep(nanosPerRecord * records.rows() - (System.nanoTime() - start));
      }
    } catch (InterruptedException | RejectedExecutionException e) {
      // Closed.
      Thread.currentThread().interrupt();
    }
  }

  private Portion map(Records records, long before, boolean isLast) {
    List<Document> documents = new ArrayList<>(records.found().size());
    Map<String, String> problems = new LinkedHashMap<>();
    for (AssembledRecord record : records.found()) {
      try {
        documents.add(mapper.map(record));
      } catch (UnmappableRecordException e) {
        problems.put(record.key().text(), String.valueOf(e.getMessage()));
      }
    }
    records.unreadable().forEach((key, reason) -> problems.put(key.text(), reason));
    return new Portion(before, documents, problems, records.rows(), records.last(), isLast);
  }

  /** Notes that a change has brought a record up to date. */
  void changed(String key) {
    long next = stamp + 1;
    changed.remove(key);
    changed.put(key, next);
    // Only now: whoever reads after this sees what the change has done.
    stamp = next;
  }

  /**
   * The next portion, or null if there is none in time.
   *
   * @throws SourceUnavailableException if it could not be read; a new backfill has to be begun
   */
  @Nullable Portion next(Duration wait) throws SourceUnavailableException, InterruptedException {
    Future<Portion> future = portions.poll(wait.toNanos(), TimeUnit.NANOSECONDS);
    if (future == null) {
      return null;
    }
    Portion portion;
    try {
      portion = future.get();
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case SourceUnavailableException unavailable -> throw unavailable;
        case RuntimeException failure -> throw failure;
        default -> throw new IllegalStateException(e.getCause());
      }
    }
    // Later portions have no lower stamp than this one.
    changed.values().removeIf(noted -> noted <= portion.stamp);
    if (changed.isEmpty()) {
      return portion;
    }
    Map<String, String> problems = new LinkedHashMap<>(portion.problems);
    problems.keySet().removeAll(changed.keySet());
    return new Portion(
        portion.stamp,
        portion.documents.stream().filter(d -> !changed.containsKey(d.key())).toList(),
        problems,
        portion.rows,
        portion.last,
        portion.isLast);
  }

  @Override
  public void close() {
    reading.interrupt();
    mapping.shutdownNow();
    try {
      reading.join(CLOSE_WAIT);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }
}
