package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.shard.Fact;

/** The statistics of an edition that is in this process as a whole, or of one of its shards. */
final class EditionStatistics implements Statistics {
  private final Snapshot snapshot;
  private final Budget budget;
  private final Map<String, Double> averageLengths = new HashMap<>();
  private final Map<String, Long> documentFrequencies = new HashMap<>();
  private final Map<RuleKey, List<TermRule.Found>> found = new HashMap<>();
  private final boolean counting;
  private final @Nullable Map<String, List<Fact.Term>> chosen;
  private long documents = -1;

  EditionStatistics(Snapshot snapshot, Budget budget) {
    this(snapshot, budget, true, null);
  }

  private EditionStatistics(
      Snapshot snapshot,
      Budget budget,
      boolean counting,
      @Nullable Map<String, List<Fact.Term>> chosen) {
    this.snapshot = snapshot;
    this.budget = budget;
    this.counting = counting;
    this.chosen = chosen;
  }

  /**
   * For searches whose scores nobody looks at, or that are given what scores need: every term is as
   * rare as any other, so that none has to be looked up in each segment before the first one is
   * searched.
   *
   * @param chosen terms that were chosen for all shards, by the names of their rules and fields;
   *     null: the snapshot is the whole edition
   */
  static EditionStatistics withoutCounts(
      Snapshot snapshot, Budget budget, @Nullable Map<String, List<Fact.Term>> chosen) {
    return new EditionStatistics(snapshot, budget, false, chosen);
  }

  @Override
  public long documents() {
    if (documents < 0) {
      documents = snapshot.documents();
    }
    return documents;
  }

  @Override
  public void averageLength(String field, double length) {
    averageLengths.put(field, length);
  }

  @Override
  public double averageLength(Field field) {
    return averageLengths.computeIfAbsent(
        field.name(),
        name -> {
          if (!counting) {
            return 1.0;
          }
          Fact.Lengths lengths = lengths(field);
          return Statistics.mean(lengths.total(), lengths.documents());
        });
  }

  Fact.Lengths lengths(Field field) {
    long total = 0;
    long having = 0;
    for (SegmentView segment : snapshot.segments()) {
      SegmentView.Lengths lengths = segment.lengths(field);
      total += lengths.total();
      having += lengths.documents();
    }
    return new Fact.Lengths(total, having);
  }

  @Override
  public long documentFrequency(Field field, byte[] term) {
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

  @Override
  public long documentFrequency(Field field, TermRule rule) {
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

  /** Not needed: all segments are here, or what was chosen for all shards is known. */
  @Override
  public void choose(Field field, TermRule.Best rule) {}

  @Override
  public List<TermRule.Found> terms(SegmentReader segment, Field field, TermRule rule) {
    if (chosen != null && rule instanceof TermRule.Best best) {
      return chosen(segment, field, best, chosen);
    }
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

  /** The terms of a segment among those that were chosen for all shards. */
  private static List<TermRule.Found> chosen(
      SegmentReader segment,
      Field field,
      TermRule.Best rule,
      Map<String, List<Fact.Term>> chosenByName) {
    String name = FactNames.terms(field, rule);
    List<Fact.Term> terms = chosenByName.get(name);
    if (terms == null) {
      throw new IllegalStateException("nobody has chosen " + name);
    }
    List<TermRule.Found> here = new ArrayList<>();
    Dictionary.Walk walk = segment.terms(field).walk();
    for (Fact.Term term : terms) {
      if (walk.seek(term.text().getBytes(StandardCharsets.UTF_8))) {
        here.add(new TermRule.Found(walk.place(), (int) walk.number(0), term.strength()));
      }
    }
    here.sort(Comparator.comparingInt(TermRule.Found::place));
    return here;
  }

  private record RuleKey(SegmentReader segment, String field, TermRule rule) {}
}
