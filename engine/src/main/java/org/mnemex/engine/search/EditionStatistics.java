package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.Map;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;

/**
 * Numbers about the whole edition that scores need. Deleted documents that are not merged away yet
 * are counted, as usual in the trade: that shifts scores by a trifle until they are.
 */
final class EditionStatistics {
  private final Snapshot snapshot;
  private final Map<String, Double> averageLengths = new HashMap<>();
  private final Map<String, Long> documentFrequencies = new HashMap<>();

  EditionStatistics(Snapshot snapshot) {
    this.snapshot = snapshot;
  }

  long documents() {
    long documents = 0;
    for (SegmentView segment : snapshot.segments()) {
      documents += segment.reader().documents();
    }
    return documents;
  }

  /** Mean number of words of a text field, over the documents that have it; at least 1. */
  double averageLength(Field field) {
    return averageLengths.computeIfAbsent(
        field.name(),
        name -> {
          long total = 0;
          long having = 0;
          for (SegmentView segment : snapshot.segments()) {
            var lengths = segment.reader().lengths(field);
            total += lengths.total();
            having += lengths.documents();
          }
          return having == 0 ? 1 : Math.max(1, (double) total / having);
        });
  }

  /** In how many documents a term stands. */
  long documentFrequency(Field field, String term) {
    return documentFrequencies.computeIfAbsent(
        field.name() + '\0' + term,
        name -> {
          byte[] utf8 = term.getBytes(StandardCharsets.UTF_8);
          long sum = 0;
          for (SegmentView segment : snapshot.segments()) {
            Dictionary terms = segment.reader().terms(field);
            int place = terms.find(utf8);
            sum += place < 0 ? 0 : segment.reader().documentCount(terms, place);
          }
          return sum;
        });
  }

  /** In how many documents terms with a beginning stand, counting a document once per term. */
  long prefixFrequency(Field field, String prefix) {
    return documentFrequencies.computeIfAbsent(
        field.name() + '\0' + prefix + "\0*",
        name -> {
          byte[] utf8 = prefix.getBytes(StandardCharsets.UTF_8);
          long sum = 0;
          for (SegmentView segment : snapshot.segments()) {
            Dictionary terms = segment.reader().terms(field);
            for (int place : PrefixRange.of(terms, utf8)) {
              sum += segment.reader().documentCount(terms, place);
            }
          }
          return sum;
        });
  }
}
