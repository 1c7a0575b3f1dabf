package org.mnemex.service.record;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Document;
import org.mnemex.service.endpoint.ShownValues;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.Running;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.status.IndexView;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.SourceUnavailableException;
import org.springframework.stereotype.Component;

/** Shows how definitions would index one record of the database. */
@Component
public class DefinitionPreview {
  private final Installation installation;

  DefinitionPreview(Installation installation) {
    this.installation = installation;
  }

  /**
   * One record, as a definition would index it.
   *
   * @param index the index, as its definition describes it
   * @param key key of the record; null if there is none
   * @param record the record as it is read from the database
   * @param fields values of each field
   * @param tokens terms of each text field
   * @param problem why there is no record or no document, or null
   */
  public record Previewed(
      IndexView index,
      @Nullable String key,
      @Nullable RecordView record,
      @Nullable Map<String, List<Object>> fields,
      @Nullable Map<String, List<String>> tokens,
      @Nullable String problem) {}

  /** What an applied index says. */
  public IndexView view(String index) {
    return IndexView.of(installation.running().index(index).index());
  }

  /**
   * Reads one record as an index would.
   *
   * @param files definitions that are not applied; may be empty
   * @param key of the record; null for the first one
   * @throws org.mnemex.grammar.DefinitionException if the definitions are wrong
   * @throws org.mnemex.service.problem.ProblemException if there is no such index
   */
  public Previewed preview(List<DefinitionFile> files, String name, @Nullable String key) {
    Running running = installation.after(files);
    IndexDefinition index = running.index(name).index();
    IndexView view = IndexView.of(index);
    RunningSource source = running.sources().get(index.source());
    if (source == null) {
      throw new IllegalStateException("index '" + name + "' has lost its source");
    }
    AssembledRecord record;
    try (RecordReader reader = source.source().reader(index.shape(), index.expressions())) {
      Records records =
          key == null
              ? reader.readAfter(null, 1)
              : reader.read(List.of(RecordKey.parse(key, index.shape().key().size())));
      record = records.found().stream().findFirst().orElse(null);
      if (record == null) {
        String why = records.unreadable().values().stream().findFirst().orElse(null);
        return nothing(view, key, why == null ? "there is no such record" : why);
      }
    } catch (SourceUnavailableException e) {
      return nothing(view, key, String.valueOf(e.getMessage()));
    }
    String text = record.key().text();
    RecordView content = RecordView.of(record.content());
    try {
      Document document = new DocumentMapper(index).map(record);
      return new Previewed(
          view,
          text,
          content,
          inOrder(index, document),
          RecordTrace.tokens(index, document.fields()),
          null);
    } catch (UnmappableRecordException e) {
      return new Previewed(view, text, content, null, null, e.getMessage());
    }
  }

  private static Previewed nothing(IndexView view, @Nullable String key, String problem) {
    return new Previewed(view, key, null, null, null, problem);
  }

  private static Map<String, List<Object>> inOrder(IndexDefinition index, Document document) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    index
        .fields()
        .forEach(
            defined -> {
              List<Object> values = document.fields().get(defined.field().name());
              if (values != null && !values.isEmpty()) {
                fields.put(
                    defined.field().name(), values.stream().map(ShownValues::plain).toList());
              }
            });
    return fields;
  }
}
