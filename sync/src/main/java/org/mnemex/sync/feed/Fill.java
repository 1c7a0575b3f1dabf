package org.mnemex.sync.feed;

import java.io.IOException;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * Fills an edition portion by portion in key order, from the database or from another edition's
 * stored records. Checkpoints hold its progress, so it resumes after a crash. Used by the feed's
 * thread.
 */
final class Fill implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Fill.class);
  private static final ObjectMapper JSON = JsonMapper.shared();

  /** Changes are applied in between. */
  private static final Duration PORTION_WAIT = Duration.ofMillis(50);

  private static final long ORIGIN_WAIT_MILLIS = 20;

  private final IndexDefinition definition;
  private final String name;
  private final Readers readers;
  private final DocumentMapper mapper;
  private final RecordWriter writer;
  private final Pace pace;
  private @Nullable StoredOrigin origin;
  private @Nullable Backfill backfill;
  private @Nullable RecordKey after;
  private boolean done;
  private long recordsDone;
  private long recordsTotal;
  private long written;
  private long nanos;
  private long measuredTo;
  private volatile Progress progress = new Progress(0, 0, 0, 0);

  /** Opens a reader of the database's records. */
  @FunctionalInterface
  interface Readers {
    RecordReader open(@Nullable ReadColumns columns);
  }

  /**
   * @param name name of the reading threads
   * @param origin what to fill the edition from; null for the database
   */
  Fill(
      IndexDefinition definition,
      String name,
      Readers readers,
      DocumentMapper mapper,
      RecordWriter writer,
      Pace pace,
      @Nullable StoredOrigin origin) {
    this.definition = definition;
    this.name = name;
    this.readers = readers;
    this.mapper = mapper;
    this.writer = writer;
    this.pace = pace;
    this.origin = origin;
  }

  /** Resumes from a checkpoint. */
  void resume(Map<String, String> values) {
    done = "live".equals(values.get("phase"));
    if ("backfill".equals(values.get("phase"))) {
      // It started from the database, or had to switch to it.
      origin = null;
    }
    String key = values.get("after");
    if (key != null) {
      after = new RecordKey(JSON.readValue(key, new TypeReference<List<Object>>() {}));
    }
    recordsDone = Long.parseLong(values.getOrDefault("done", "0"));
  }

  /** Saves its progress in a checkpoint. */
  void note(Map<String, String> values) {
    values.put("phase", done ? "live" : origin == null ? "backfill" : "stored");
    values.put("done", Long.toString(recordsDone));
    if (after != null) {
      values.put("after", JSON.writeValueAsString(after.values()));
    }
  }

  /** Whether the edition holds every record. */
  boolean isDone() {
    return done;
  }

  /** Whether it is filled from the database. */
  boolean isFromDatabase() {
    return origin == null;
  }

  /** The columns of the records that it is filled with; null if not known yet. */
  @Nullable ReadColumns columns() {
    return origin == null ? null : origin.columns();
  }

  /** The approximate number of records. */
  void expect(long records) {
    recordsTotal = records;
  }

  /**
   * Progress.
   *
   * @param done written records
   * @param expected approximate total of records
   * @param written those written since this process began
   * @param nanos the time they took, with all that is done in between
   */
  record Progress(long done, long expected, long written, long nanos) {
    long perSecond() {
      return nanos == 0 ? 0 : written * 1_000_000_000L / nanos;
    }
  }

  /** How far it is; may be asked by any thread. */
  Progress progress() {
    return progress;
  }

  /**
   * Writes the next portion, if one is ready.
   *
   * @param position the position from which changes are applied on top of the records
   * @param columns the columns that are read
   * @param unreadable receives the keys of records that have to be read from the database
   * @return how many records it had; 0 if none was ready
   * @throws SourceUnavailableException if records could not be read; unwritten records are read
   *     again
   */
  int next(Position position, @Nullable ReadColumns columns, Asked unreadable)
      throws SourceUnavailableException, IOException, InterruptedException {
    Backfill records = backfill;
    if (records == null) {
      measuredTo = System.nanoTime();
      Supplier<RecordReader> open = open(position, columns);
      if (open == null) {
        TimeUnit.MILLISECONDS.sleep(ORIGIN_WAIT_MILLIS);
        return 0;
      }
      records = new Backfill(open, mapper, after, pace, origin != null, name);
      backfill = records;
    }
    try {
      Backfill.Portion portion = records.next(PORTION_WAIT);
      if (portion == null) {
        return 0;
      }
      write(portion, unreadable);
      long now = System.nanoTime();
      nanos += now - measuredTo;
      measuredTo = now;
      // An estimate may be too low.
      recordsTotal = done ? recordsDone : Math.max(recordsTotal, recordsDone);
      progress = new Progress(recordsDone, recordsTotal, written, nanos);
      return portion.rows();
    } catch (SourceUnavailableException | IOException | RuntimeException e) {
      // The unwritten rest is read again.
      close();
      throw e;
    }
  }

  /** Receives the keys of records that have to be read from the database. */
  @FunctionalInterface
  interface Asked {
    void add(Set<RecordKey> keys);
  }

  /** The reader of records, or null while it has to wait. */
  private @Nullable Supplier<RecordReader> open(Position position, @Nullable ReadColumns columns)
      throws SourceUnavailableException {
    StoredOrigin stored = origin;
    if (stored == null) {
      return () -> readers.open(columns);
    }
    try {
      // Stored records must not be older than the first change applied on top of them.
      Snapshot snapshot = stored.at(Objects.requireNonNull(position));
      if (snapshot == null) {
        return null;
      }
      recordsTotal = snapshot.documents();
      return () -> new StoredRecordReader(snapshot, definition);
    } catch (StoredOrigin.OriginGoneException e) {
      LOG.warn("index '{}': {}; it is filled from the database", definition.name(), e.getMessage());
      // Stored records come in another order than the database's, so start over.
      origin = null;
      after = null;
      recordsDone = 0;
      try (RecordReader reader = readers.open(columns)) {
        recordsTotal = reader.estimate();
      }
      return () -> readers.open(columns);
    }
  }

  private void write(Backfill.Portion portion, Asked unreadable) throws IOException {
    ManyRecords.each(portion.documents(), writer::write);
    portion.problems().forEach(writer::setAside);
    recordsDone += portion.rows();
    written += portion.rows();
    if (portion.last() != null) {
      after = portion.last();
    }
    if (portion.isLast()) {
      close();
      done = true;
      after = null;
      StoredOrigin stored = origin;
      if (stored != null) {
        // They have no stored record, and may be indexable now.
        unreadable.add(stored.unreadable());
        origin = null;
      }
    }
  }

  /** Notes that a change has updated a record. */
  void changed(String key) {
    Backfill waiting = backfill;
    if (waiting != null) {
      waiting.changed(key);
    }
  }

  /** Closes its readers. */
  @Override
  public void close() {
    Backfill records = backfill;
    backfill = null;
    if (records != null) {
      records.close();
    }
  }
}
