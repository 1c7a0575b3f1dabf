package org.mnemex.sync.push;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Affected;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.FanOut;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;
import org.mnemex.sync.source.TableNotes;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** A source of pushed records. */
public final class PushSource implements Source {
  private static final ObjectMapper JSON =
      JsonMapper.builder().enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS).build();
  private static final TypeReference<Map<String, Object>> CONTENT = new TypeReference<>() {};

  private final SourceDefinition.Push definition;
  private final PushStore store;
  private final ReentrantLock lock = new ReentrantLock();
  private final Condition pushed = lock.newCondition();

  public PushSource(SourceDefinition.Push definition, PushStore store) {
    this.definition = definition;
    this.store = store;
  }

  @Override
  public String name() {
    return definition.name();
  }

  /** Reads and changes a record atomically. */
  @FunctionalInterface
  public interface Step {
    /** The new content of a record; null deletes it. */
    @Nullable String of(String key, @Nullable String before);
  }

  /**
   * Writes records, all or none; on disk when this returns.
   *
   * @param change from the old to the new content
   * @return the position after them
   */
  public Position push(Collection<String> keys, Step change) {
    lock.lock();
    try {
      Map<String, String> before = new HashMap<>();
      for (PushStore.Pushed there : store.read(name(), keys)) {
        if (there.content() != null) {
          before.put(there.key(), there.content());
        }
      }
      Map<String, @Nullable String> after = new LinkedHashMap<>();
      keys.forEach(key -> after.put(key, change.of(key, before.get(key))));
      Position position = new Position(store.history(name()), store.write(name(), after));
      pushed.signalAll();
      return position;
    } finally {
      lock.unlock();
    }
  }

  @Override
  public void check(IndexDefinition index) {
    RecordShape shape = index.shape();
    if (!shape.root().isEmpty() || !shape.joins().isEmpty() || shape.only() != null) {
      throw new InvalidDefinitionException(
          List.of("record"),
          "pushed records have a key only; 'root', 'join' and 'only' are for databases",
          null);
    }
    for (FieldDefinition field : index.fields()) {
      if (field.sql() != null || field.file() != null) {
        throw new InvalidDefinitionException(
            List.of("fields", field.field().name()),
            "'sql' and 'extract' are for databases; push the value itself",
            null);
      }
    }
  }

  @Override
  public Catalogue catalogue() {
    return new Catalogue(Map.of());
  }

  @Override
  public Map<String, TableNotes> notes(Set<String> tables) {
    return Map.of();
  }

  @Override
  public List<Map<String, Object>> sample(String table, List<String> columns, int limit) {
    return List.of();
  }

  @Override
  public List<Requirement> requirements(Map<String, Set<String>> columnsByTable) {
    return List.of();
  }

  @Override
  public List<Requirement> advice(RecordShape shape) {
    return List.of();
  }

  @Override
  public void prepare(Map<String, Set<String>> columnsByTable) {
    // Pushing needs no preparation.
  }

  @Override
  public void make(Map<String, Set<String>> columnsByTable) {
    // Pushing needs no preparation.
  }

  @Override
  public List<String> removal(OwnReaders own) {
    return List.of();
  }

  @Override
  public void forget(OwnReaders own) {
    store.removeAll(name());
  }

  @Override
  public List<SourceReader> readers() {
    return List.of();
  }

  @Override
  public Map<String, SourceReader> retained(Set<String> readers) {
    return Map.of();
  }

  @Override
  public String readerName(String reader) {
    return reader;
  }

  @Override
  public void dropReader(String name) {
    store.leave(name(), name);
  }

  @Override
  public ReadColumns columns(RecordShape shape) {
    return new ReadColumns(Map.of());
  }

  @Override
  public Position position(String text) {
    return Position.parse(text);
  }

  @Override
  public Duration lookInterval() {
    return Duration.ZERO;
  }

  @Override
  public int recordsPerSecond() {
    return definition.following().recordsPerSecond();
  }

  @Override
  public long mostRetained() {
    return 0;
  }

  @Override
  public Capture capture(String reader, Map<String, Set<String>> columnsByTable) {
    return new PushCapture(reader);
  }

  @Override
  public RecordReader reader(
      RecordShape shape,
      Map<String, String> expressions,
      @Nullable ReadColumns columns,
      Shard shard) {
    return new PushReader(shape.key().size(), shard);
  }

  private final class PushReader implements RecordReader {
    private final int keyColumns;
    private final Shard shard;

    PushReader(int keyColumns, Shard shard) {
      this.keyColumns = keyColumns;
      this.shard = shard;
    }

    @Override
    public Records read(Collection<RecordKey> keys) {
      return records(store.read(name(), keys.stream().map(RecordKey::text).toList()));
    }

    @Override
    public Records readAfter(@Nullable RecordKey after, int limit) {
      return records(store.readAfter(name(), after == null ? null : after.text(), limit));
    }

    @Override
    public @Nullable RecordKey skip(@Nullable RecordKey after, int records) {
      String key = store.skip(name(), after == null ? null : after.text(), records);
      return key == null ? null : RecordKey.parse(key, keyColumns);
    }

    @Override
    public Records readBetween(@Nullable RecordKey after, @Nullable RecordKey upTo) {
      return records(
          store.readBetween(
              name(), after == null ? null : after.text(), upTo == null ? null : upTo.text()));
    }

    private Records records(List<PushStore.Pushed> rows) {
      List<AssembledRecord> found = new ArrayList<>();
      RecordKey last = null;
      int count = 0;
      for (PushStore.Pushed row : rows) {
        RecordKey key = RecordKey.parse(row.key(), keyColumns);
        if (row.content() != null && shard.has(key)) {
          last = key;
          count++;
          found.add(
              new AssembledRecord(key, RecordContent.of(JSON.readValue(row.content(), CONTENT))));
        }
      }
      return new Records(found, Map.of(), count, last);
    }

    @Override
    public long estimate() {
      return store.count(name()) / shard.of();
    }

    @Override
    public Affected affected(List<Change> changes, int limit) {
      Map<RecordKey, Change> causes = new LinkedHashMap<>();
      for (Change change : changes) {
        RecordKey key = RecordKey.parse(String.valueOf(change.columns().get("key")), keyColumns);
        if (shard.has(key)) {
          causes.putIfAbsent(key, change);
        }
      }
      return new Affected(causes, List.of());
    }

    @Override
    public Affected affected(FanOut more, int limit) {
      throw new UnsupportedOperationException("pushed records have no joined rows");
    }

    @Override
    public void abort() {
      // There is nothing to abort.
    }

    @Override
    public void close() {
      // There is nothing to close.
    }
  }

  private final class PushCapture implements Capture {
    private final String reader;

    PushCapture(String reader) {
      this.reader = reader;
    }

    @Override
    public Position now() {
      return new Position(store.history(name()), store.last(name()));
    }

    @Override
    public Position last() {
      return now();
    }

    @Override
    public Changes after(Position position, int limit, Duration wait) throws InterruptedException {
      String history = store.history(name());
      if (!history.equals(position.history())
          || store.last(name()) < position.number()
          || store.trimmed(name()) > position.number()) {
        throw new PositionLostException(
            "what was pushed to source '%s' is not what it was before".formatted(name()));
      }
      long left = wait.toNanos();
      lock.lockInterruptibly();
      try {
        while (left > 0 && store.last(name()) <= position.number()) {
          left = pushed.awaitNanos(left);
        }
      } finally {
        lock.unlock();
      }
      Instant now = Instant.now();
      List<Change> changes = new ArrayList<>();
      long last = position.number();
      for (PushStore.Pushed row : store.changesAfter(name(), position.number(), limit)) {
        last = row.number();
        changes.add(
            new Change(
                "(push)", Map.of("key", row.key()), now, new Position(history, row.number())));
      }
      return new Changes(changes, new Position(history, last), changes.size() < limit);
    }

    @Override
    public void done(Position position) {
      store.done(name(), reader, position.number());
    }

    @Override
    public void leave() {
      store.leave(name(), reader);
    }

    @Override
    public void abort() {
      // There is nothing to abort.
    }

    @Override
    public void close() {
      // There is nothing to close.
    }
  }
}
