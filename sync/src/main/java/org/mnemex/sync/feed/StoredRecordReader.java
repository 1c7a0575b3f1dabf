package org.mnemex.sync.feed;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.KeyWalk;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.read.StoredDocument;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.mapping.ContentJson;
import org.mnemex.sync.source.Affected;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.FanOut;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;

/** Reads records as an edition has stored them, in order of the bytes of their keys. */
final class StoredRecordReader implements RecordReader {
  private final Snapshot snapshot;
  private final int keyColumns;
  private final Map<String, String> names;

  /**
   * @param definition what is made of the records; they may have been stored under another one that
   *     reads the same, but called fields otherwise or had more of them
   */
  StoredRecordReader(Snapshot snapshot, IndexDefinition definition) {
    this.snapshot = snapshot;
    this.keyColumns = definition.shape().key().size();
    this.names = new HashMap<>();
    for (String field : definition.expressions().keySet()) {
      names.put(field, field);
      String was = definition.renamed().get(field);
      if (was != null) {
        names.put(was, field);
      }
    }
  }

  @Override
  public Records read(Collection<RecordKey> keys) {
    List<AssembledRecord> found = new ArrayList<>();
    for (RecordKey key : keys) {
      StoredDocument document = snapshot.document(key.text());
      if (document != null) {
        found.add(record(key.text(), document.record()));
      }
    }
    return records(found);
  }

  @Override
  public Records readAfter(@Nullable RecordKey after, int limit) {
    List<AssembledRecord> found = new ArrayList<>();
    KeyWalk walk = walk(after);
    while (found.size() < limit && walk.next()) {
      found.add(record(walk.key(), walk.record()));
    }
    return records(found);
  }

  @Override
  public @Nullable RecordKey skip(@Nullable RecordKey after, int records) {
    KeyWalk walk = walk(after);
    for (int i = 0; i < records; i++) {
      if (!walk.next()) {
        return null;
      }
    }
    return RecordKey.parse(walk.key(), keyColumns);
  }

  @Override
  public Records readBetween(@Nullable RecordKey after, @Nullable RecordKey upTo) {
    List<AssembledRecord> found = new ArrayList<>();
    KeyWalk walk = walk(after);
    boolean more = true;
    while (more && walk.next()) {
      found.add(record(walk.key(), walk.record()));
      more = upTo == null || !walk.key().equals(upTo.text());
    }
    return records(found);
  }

  private KeyWalk walk(@Nullable RecordKey after) {
    return new KeyWalk(snapshot, after == null ? null : after.text());
  }

  private AssembledRecord record(String key, byte[] json) {
    RecordContent content = ContentJson.read(json);
    RecordKey parsed = RecordKey.parse(key, keyColumns);
    return content.computed().keySet().stream().allMatch(name -> name.equals(names.get(name)))
        ? new AssembledRecord(parsed, content, json)
        : new AssembledRecord(
            parsed, new RecordContent(content.columns(), inNewNames(content.computed())));
  }

  /** Results of expressions under the current names of their fields; others are left out. */
  private Map<String, Object> inNewNames(Map<String, Object> computed) {
    Map<String, Object> named = new LinkedHashMap<>();
    computed.forEach(
        (name, value) -> {
          String now = names.get(name);
          if (now != null) {
            named.put(now, value);
          }
        });
    return named;
  }

  private static Records records(List<AssembledRecord> found) {
    RecordKey last = found.isEmpty() ? null : found.getLast().key();
    return new Records(found, Map.of(), found.size(), last);
  }

  @Override
  public long estimate() {
    return snapshot.documents();
  }

  @Override
  public Affected affected(List<Change> changes, int limit) {
    throw new UnsupportedOperationException("changes are read from the source");
  }

  @Override
  public Affected affected(FanOut more, int limit) {
    throw new UnsupportedOperationException("changes are read from the source");
  }

  @Override
  public void abort() {
    // There is nothing to wait for.
  }

  @Override
  public void close() {
    // The edition owns the snapshot.
  }
}
