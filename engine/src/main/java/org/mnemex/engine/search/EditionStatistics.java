package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;

/**
 * Numbers about the whole edition that scores need, and choices that have to be made for all of it.
 * Only what is there counts, so that the same documents score the same, no matter in which segments
 * they are and what was deleted there.
 */
final class EditionStatistics {
  private final Snapshot snapshot;
  private final Budget budget;
  private final Map<String, Double> averageLengths = new HashMap<>();
  private final Map<String, Long> documentFrequencies = new HashMap<>();
  private final Map<RuleKey, List<TermRule.Found>> found = new HashMap<>();
  private final boolean counting;
  private long documents = -1;

  EditionStatistics(Snapshot snapshot, Budget budget) {
    this(snapshot, budget, true);
  }

  private EditionStatistics(Snapshot snapshot, Budget budget, boolean counting) {
    this.snapshot = snapshot;
    this.budget = budget;
    this.counting = counting;
  }

  /**
   * For searches whose scores nobody looks at, or that are given what scores need: every term is as
   * rare as any other, so that none has to be looked up in each segment before the first one is
   * searched.
   */
  static EditionStatistics withoutCounts(Snapshot snapshot, Budget budget) {
    return new EditionStatistics(snapshot, budget, false);
  }

  long documents() {
    if (documents < 0) {
      documents = snapshot.documents();
    }
    return documents;
  }

  /** Takes a mean length as given. */
  void averageLength(String field, double length) {
    averageLengths.put(field, length);
  }

  /** Mean length of a text field as it is scored, over the documents that have it; at least 1. */
  double averageLength(Field field) {
    return averageLengths.computeIfAbsent(
        field.name(),
        name -> {
          if (!counting) {
            return 1.0;
          }
          long total = 0;
          long having = 0;
          for (SegmentView segment : snapshot.segments()) {
            SegmentView.Lengths lengths = segment.lengths(field);
            total += lengths.total();
            having += lengths.documents();
          }
          return having == 0 ? 1 : Math.max(1, (double) total / having);
        });
  }

  /** In how many documents a term stands. */
  long documentFrequency(Field field, byte[] term) {
    if (!counting) {
      return 1;
    }
    return documentFrequencies.computeIfAbsent(
        field.name() + '\0' + new String(term, StandardCharsets.UTF_8),
        name -> {
          long sum = 0;
          for (SegmentView segment : snapshot.segments()) {
            Dictionary.Walk walk = segment.reader().terms(field).walk();
            sum += walk.seek(term) ? segment.having(field, walk) : 0;
          }
          return sum;
        });
  }

  /** In how many documents terms of a rule stand, counting a document once per term. */
  long documentFrequency(Field field, TermRule rule) {
    if (!counting) {
      return 1;
    }
    long sum = 0;
    for (SegmentView segment : snapshot.segments()) {
      Dictionary.Walk walk = segment.reader().terms(field).walk();
      for (TermRule.Found term : terms(segment.reader(), field, rule)) {
        walk.goTo(term.place());
        sum += segment.having(field, walk);
      }
    }
    return sum;
  }

  /** The terms of a segment that a rule describes. */
  List<TermRule.Found> terms(SegmentReader segment, Field field, TermRule rule) {
    // A rule compares arrays by identity, which is enough: a plan asks again with the same one.
    RuleKey asked = new RuleKey(segment, field.name(), rule);
    if (rule instanceof TermRule.Best best && !found.containsKey(asked)) {
      new BestTerms(snapshot, field, budget)
          .of(best)
          .forEach((one, terms) -> found.put(new RuleKey(one, field.name(), rule), terms));
    }
    return found.computeIfAbsent(
        asked,
        key -> {
          List<TermRule.Found> terms = new ArrayList<>(rule.in(segment.terms(field), budget));
          budget.terms(terms.size(), rule.what());
          return terms;
        });
  }

  private record RuleKey(SegmentReader segment, String field, TermRule rule) {}
}
