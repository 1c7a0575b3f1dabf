package org.mnemex.engine.search;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.shard.Fact;

/** The statistics of a shard, which note all that they are asked for, to be told as facts. */
final class TellingStatistics implements Statistics {
  private final Snapshot snapshot;
  private final Budget budget;
  private final EditionStatistics own;
  private final boolean counting;
  private final Map<String, Fact> facts = new LinkedHashMap<>();

  /**
   * @param counting whether anything but what has to be chosen counts
   */
  TellingStatistics(Snapshot snapshot, Budget budget, boolean counting) {
    this.snapshot = snapshot;
    this.budget = budget;
    this.own = new EditionStatistics(snapshot, budget);
    this.counting = counting;
  }

  /** What was asked for so far. */
  Map<String, Fact> facts() {
    return facts;
  }

  private Fact told(String name, Supplier<Fact> fact) {
    Fact known = facts.get(name);
    if (known == null) {
      known = fact.get();
      facts.put(name, known);
    }
    return known;
  }

  @Override
  public long documents() {
    told(FactNames.documents(), () -> new Fact.Count(own.documents()));
    return own.documents();
  }

  @Override
  public void averageLength(String field, double length) {
    own.averageLength(field, length);
  }

  @Override
  public double averageLength(Field field) {
    if (counting) {
      told(FactNames.lengths(field), () -> own.lengths(field));
    }
    return 1;
  }

  @Override
  public long documentFrequency(Field field, byte[] term) {
    if (!counting) {
      return 1;
    }
    Fact having =
        told(FactNames.term(field, term), () -> new Fact.Count(own.documentFrequency(field, term)));
    return ((Fact.Count) having).documents();
  }

  @Override
  public long documentFrequency(Field field, TermRule rule) {
    if (rule instanceof TermRule.Best best) {
      choose(field, best);
    } else if (counting) {
      told(FactNames.terms(field, rule), () -> new Fact.Count(own.documentFrequency(field, rule)));
    }
    return 1;
  }

  @Override
  public void choose(Field field, TermRule.Best rule) {
    told(
        FactNames.terms(field, rule),
        () -> new BestTerms(snapshot, field, budget).candidates(rule));
  }

  @Override
  public List<TermRule.Found> terms(SegmentReader segment, Field field, TermRule rule) {
    return own.terms(segment, field, rule);
  }
}
