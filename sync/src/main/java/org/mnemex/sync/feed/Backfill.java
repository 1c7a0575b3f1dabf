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
 * not overwrite them with an older state. So each portion carries the stamp from before its records
 * were read, every record that a change updates is noted by {@link #changed} under a higher stamp,
 * and records noted above a portion's stamp are left out of it. That may leave out a newer state as
 * well; its change is still to come.
 */
final class Backfill implements AutoCloseable {
  private final RecordScan<Mapped> scan;
  private final DocumentMapper mapper;

  /** Records that changes have updated, lowest stamp first. Used by the feed's thread. */
  private final LinkedHashMap<String, Long> changed = new LinkedHashMap<>();

  private volatile long stamp;

  /**
   * The mapped records of a portion.
   *
   * @param problems why a record has no document, by the text of its key
   */
  private record Mapped(List<Document> documents, Map<String, String> problems) {}

  /**
   * A portion for the feed to write.
   *
   * @param documents the documents, without those that changes have overtaken
   * @param problems why a record has no document, by the text of its key
   * @param rows how many root rows were read
   * @param last the last key in order, or null if there were no rows
   * @param isLast whether it is the last
   */
  record Portion(
      List<Document> documents,
      Map<String, String> problems,
      int rows,
      @Nullable RecordKey last,
      boolean isLast) {}

  /**
   * Starts reading.
   *
   * @param after the key after which to start, null for all
   * @param fixed whether all records are read as of now, however long that takes
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

  /** Notes that a change has updated a record. */
  void changed(String key) {
    long next = stamp + 1;
    changed.remove(key);
    changed.put(key, next);
    // Only now: every later read sees the change.
    stamp = next;
  }

  /**
   * The next portion, or null if none is ready in time.
   *
   * @throws SourceUnavailableException if it could not be read; start a new backfill
   */
  @Nullable Portion next(Duration wait) throws SourceUnavailableException, InterruptedException {
    RecordScan.Portion<Mapped> portion = scan.next(wait);
    if (portion == null) {
      return null;
    }
    // Stamps of later portions are not lower.
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
