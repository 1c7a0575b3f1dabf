package org.mnemex.sync.change;

import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.engine.read.KeyWalk;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.mapping.ContentJson;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordKey;

/** Compares the terms of a field's values under another analyser. */
public final class AnalyserTrial {
  private static final int TERMS_TOLD = 50;

  private AnalyserTrial() {}

  /**
   * What another analyser changes in a sample of documents.
   *
   * @param looked how many documents were examined
   * @param touched how many of them would get different terms
   * @param goes terms that would disappear, most frequent first
   * @param comes terms that would appear, most frequent first
   */
  public record Outcome(int looked, int touched, List<TermCount> goes, List<TermCount> comes) {}

  /**
   * A term that appears or disappears, and in how many documents.
   *
   * @param term the term
   * @param documents number of documents in which it appears or disappears
   */
  public record TermCount(String term, int documents) {}

  /**
   * Tries an analyser on the stored records of an edition.
   *
   * @param field a text field of the definition
   * @param most how many documents to examine
   */
  public static Outcome run(
      Snapshot snapshot, IndexDefinition definition, String field, Analyser analyser, int most) {
    Analyser now = definition.schema().field(field).analyser();
    if (now == null) {
      throw new IllegalArgumentException("field '" + field + "' is not a text field");
    }
    DocumentMapper mapper = new DocumentMapper(definition);
    int keyColumns = definition.shape().key().size();
    Map<String, Integer> goes = new HashMap<>();
    Map<String, Integer> comes = new HashMap<>();
    int looked = 0;
    int touched = 0;
    KeyWalk walk = new KeyWalk(snapshot, null);
    while (looked < most && walk.next()) {
      List<Object> values;
      try {
        values =
            mapper
                .map(
                    new AssembledRecord(
                        RecordKey.parse(walk.key(), keyColumns), ContentJson.read(walk.record())))
                .fields()
                .getOrDefault(field, List.of());
      } catch (UnmappableRecordException e) {
        // It is in quarantine; its stored record is out of date.
        continue;
      }
      looked++;
      Set<String> before = terms(now, values);
      Set<String> after = terms(analyser, values);
      if (!before.equals(after)) {
        touched++;
        before.stream()
            .filter(t -> !after.contains(t))
            .forEach(t -> goes.merge(t, 1, Integer::sum));
        after.stream()
            .filter(t -> !before.contains(t))
            .forEach(t -> comes.merge(t, 1, Integer::sum));
      }
    }
    return new Outcome(looked, touched, most(goes), most(comes));
  }

  private static Set<String> terms(Analyser analyser, List<Object> values) {
    Set<String> terms = new HashSet<>();
    for (Object value : values) {
      analyser.tokens(value.toString()).stream().map(AnalysedToken::text).forEach(terms::add);
    }
    return terms;
  }

  private static List<TermCount> most(Map<String, Integer> counts) {
    return counts.entrySet().stream()
        .map(entry -> new TermCount(entry.getKey(), entry.getValue()))
        .sorted(
            Comparator.comparingInt(TermCount::documents).reversed().thenComparing(TermCount::term))
        .limit(TERMS_TOLD)
        .toList();
  }
}
