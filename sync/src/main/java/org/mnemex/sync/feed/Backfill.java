package org.mnemex.sync.feed;

import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Document;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.scan.RecordScan;
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
 */
final class Backfill implements AutoCloseable {
  private final RecordScan<Mapped> scan;
  private final DocumentMapper mapper;

  /** What changes have brought up to date, lowest stamp first. Of the feed's thread. */
  private final LinkedHashMap<String, Long> changed = new LinkedHashMap<>();

  private volatile long stamp;

  /**
   * What a portion's records are in the index.
   *
   * @param problems why a record has no document, by its key's text
   */
  private record Mapped(List<Document> documents, Map<String, String> problems) {}

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
      List<Document> documents,
      Map<String, String> problems,
      int rows,
      @Nullable RecordKey last,
      boolean isLast) {}

  /**
   * Begins to read.
   *
   * @param after the key behind which to begin, null for all
   * @param fixed whether all records are read as they are now, whenever that happens
   */
  Backfill(
      Supplier<RecordReader> readers,
      DocumentMapper mapper,
      @Nullable RecordKey after,
      Pace pace,
      boolean fixed,
      String name) {
    this.mapper = mapper;
    this.scan =
        new RecordScan<>(
            readers,
            after,
            pace.portion(),
            pace.recordsPerSecond(),
            fixed ? () -> 0 : () -> stamp,
            this::map,
            name);
  }

  private Mapped map(Records records) {
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
    return new Mapped(documents, problems);
  }

  /** Notes that a change has brought a record up to date. */
  void changed(String key) {
    long next = stamp + 1;
    changed.remove(key);
    changed.put(key, next);
    // Only now: every later reading sees what the change has done.
    stamp = next;
  }

  /**
   * The next portion, or null if there is none in time.
   *
   * @throws SourceUnavailableException if it could not be read; a new backfill has to be begun
   */
  @Nullable Portion next(Duration wait) throws SourceUnavailableException, InterruptedException {
    RecordScan.Portion<Mapped> portion = scan.next(wait);
    if (portion == null) {
      return null;
    }
    // Later portions have no lower stamp than this one.
    changed.values().removeIf(noted -> noted <= portion.stamp());
    List<Document> documents = portion.made().documents;
    Map<String, String> problems = portion.made().problems;
    if (!changed.isEmpty()) {
      documents.removeIf(document -> changed.containsKey(document.key()));
      problems.keySet().removeAll(changed.keySet());
    }
    return new Portion(documents, problems, portion.rows(), portion.last(), portion.isLast());
  }

  @Override
  public void close() {
    scan.close();
  }
}
