package org.mnemex.service.record;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.StoredDocument;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.service.endpoint.ShownValues;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.ChangeTrace;
import org.mnemex.sync.mapping.ContentHash;
import org.mnemex.sync.mapping.ContentJson;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.SourceUnavailableException;
import org.springframework.stereotype.Component;

/** Follows one record from the database to its tokens. */
@Component
public class RecordTrace {
  private static final int CHANGES_SEARCHED = 1000;

  private final Indexes indexes;

  public RecordTrace(Indexes indexes) {
    this.indexes = indexes;
  }

  /**
   * A record from the database to the index.
   *
   * @param key key of the record
   * @param agrees whether database and index agree; null if the database cannot be asked
   * @param database the record as it is in the database; null if it has none
   * @param stored the record as it was indexed; null if it is not indexed
   * @param fields stored values of the document, by field
   * @param tokens terms of text fields
   * @param quarantine why the record is not indexed, if it is in quarantine
   * @param problem why the database could not be asked, or null
   * @param changes its latest changes, newest first
   */
  public record Traced(
      String key,
      @Nullable Boolean agrees,
      @Nullable RecordView database,
      @Nullable RecordView stored,
      @Nullable Map<String, List<Object>> fields,
      @Nullable Map<String, List<String>> tokens,
      @Nullable String quarantine,
      @Nullable String problem,
      List<ChangeTrace> changes) {}

  /**
   * Traces the record of a key, whether it exists or not.
   *
   * @throws ProblemException 421 if it belongs to a shard that is built elsewhere
   */
  public Traced trace(String index, String key) {
    Edition live = indexes.live(index);
    Shard shard = live.shard();
    if (!shard.has(key(live.definition(), key))) {
      throw new ProblemException(
          ProblemType.ONE_SHARD,
          "record '%s' belongs to shard %d of %d, and this service builds shard %d; ask the builder of that shard"
              .formatted(key, Shard.number(key, shard.of()), shard.of(), shard.number()));
    }
    StoredDocument indexed = live.read(() -> live.folder().snapshot().document(key));
    RecordContent stored = indexed == null ? null : ContentJson.read(indexed.record());
    String quarantined = indexes.quarantineReason(index, live, key);
    RecordContent database = null;
    Boolean agrees = null;
    String problem = null;
    try {
      AssembledRecord record = read(index, live.definition(), key);
      database = record == null ? null : record.content();
      Long hash = live.read(() -> live.folder().snapshot().hash(key));
      agrees = record == null ? hash == null : agrees(live.definition(), record, hash);
    } catch (SourceUnavailableException e) {
      problem = e.getMessage();
    } catch (UnmappableRecordException e) {
      problem = e.getMessage();
      agrees = indexed == null;
    }
    return new Traced(
        key,
        agrees,
        RecordView.ofNullable(database),
        RecordView.ofNullable(stored),
        indexed == null ? null : ShownValues.ofAll(indexed.fields()),
        indexed == null ? null : tokens(live.definition(), indexed.fields()),
        quarantined,
        problem,
        live.feed().lastChanges(CHANGES_SEARCHED).stream()
            .filter(change -> change.key().equals(key))
            .toList());
  }

  private @Nullable AssembledRecord read(String index, IndexDefinition definition, String key)
      throws SourceUnavailableException {
    try (RecordReader reader =
        indexes.source(index).reader(definition.shape(), definition.expressions())) {
      return reader.read(List.of(key(definition, key))).found().stream().findFirst().orElse(null);
    }
  }

  private static boolean agrees(
      IndexDefinition definition, AssembledRecord record, @Nullable Long hash)
      throws UnmappableRecordException {
    DocumentMapper mapper = new DocumentMapper(definition);
    // A record that cannot be mapped agrees with nothing, whatever its hash is.
    mapper.map(record);
    return hash != null && mapper.hash(record, new ContentHash(hash)).bits() == hash;
  }

  private static RecordKey key(IndexDefinition definition, String text) {
    return RecordKey.parse(text, definition.shape().key().size());
  }

  /** The terms of text fields, by field. */
  static Map<String, List<String>> tokens(
      IndexDefinition definition, Map<String, List<Object>> fields) {
    Map<String, List<String>> tokens = new LinkedHashMap<>();
    for (FieldDefinition defined : definition.fields()) {
      Field field = defined.field();
      if (field.analyser() != null) {
        List<String> terms =
            fields.getOrDefault(field.name(), List.of()).stream()
                .flatMap(value -> field.analyser().tokens((String) value).stream())
                .map(AnalysedToken::text)
                .toList();
        if (!terms.isEmpty()) {
          tokens.put(field.name(), terms);
        }
      }
    }
    return tokens;
  }
}
