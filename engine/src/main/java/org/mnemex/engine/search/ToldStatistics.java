package org.mnemex.engine.search;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.shard.Fact;

/** The statistics of an edition whose shards are elsewhere, made of facts that these have told. */
final class ToldStatistics implements Statistics {
  private final Map<String, Fact> facts;
  private final boolean counting;
  private final Map<String, Double> averageLengths = new HashMap<>();
  private final Map<String, List<Fact.Term>> chosen = new HashMap<>();
  private boolean complete = true;

  /**
   * @param facts about all shards, by name
   * @param counting whether anything but what has to be chosen counts
   */
  ToldStatistics(Map<String, Fact> facts, boolean counting) {
    this.facts = facts;
    this.counting = counting;
  }

  /** Whether all that was asked for was known. */
  boolean isComplete() {
    return complete;
  }

  /** The terms of all that had to be chosen, by name. */
  Map<String, List<Fact.Term>> chosen() {
    return chosen;
  }

  private @Nullable Fact fact(String name) {
    Fact known = facts.get(name);
    complete &= known != null;
    return known;
  }

  private long count(String name) {
    return fact(name) instanceof Fact.Count count ? count.documents() : 1;
  }

  @Override
  public long documents() {
    return count(FactNames.documents());
  }

  @Override
  public void averageLength(String field, double length) {
    averageLengths.put(field, length);
  }

  @Override
  public double averageLength(Field field) {
    Double given = averageLengths.get(field.name());
    if (given != null || !counting) {
      return given == null ? 1 : given;
    }
    return fact(FactNames.lengths(field)) instanceof Fact.Lengths lengths
        ? Statistics.mean(lengths.total(), lengths.documents())
        : 1;
  }

  @Override
  public long documentFrequency(Field field, byte[] term) {
    return counting ? count(FactNames.term(field, term)) : 1;
  }

  @Override
  public long documentFrequency(Field field, TermRule rule) {
    if (rule instanceof TermRule.Best best) {
      choose(field, best);
      long sum =
          chosen.getOrDefault(FactNames.terms(field, rule), List.of()).stream()
              .mapToLong(Fact.Term::documents)
              .sum();
      return counting ? sum : 1;
    }
    return counting ? count(FactNames.terms(field, rule)) : 1;
  }

  @Override
  public void choose(Field field, TermRule.Best rule) {
    String name = FactNames.terms(field, rule);
    if (fact(name) instanceof Fact.Terms terms) {
      chosen.computeIfAbsent(name, unknown -> terms.chosen());
    }
  }

  @Override
  public List<TermRule.Found> terms(SegmentReader segment, Field field, TermRule rule) {
    throw new IllegalStateException("there are no segments here");
  }
}
