package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/** Makes matchers of plans for one segment. */
final class SegmentMatchers {
  /** With more terms than this, frequencies are added up once instead of walked side by side. */
  private static final int MAX_SIDE_BY_SIDE = 8;

  private final SegmentReader segment;
  private final Statistics statistics;
  private final Budget budget;
  private final SegmentFilter filter;
  private final Map<String, Factors> factors = new HashMap<>();

  SegmentMatchers(
      SegmentReader segment, Statistics statistics, Budget budget, SegmentFilter filter) {
    this.segment = segment;
    this.statistics = statistics;
    this.budget = budget;
    this.filter = filter;
  }

  /** A matcher for {@code plan}, which may give deleted documents. */
  Matcher matcher(Plan plan) {
    return switch (plan) {
      case Plan.Words words -> words(words);
      case Plan.All all ->
          new Matcher.All(matchers(all.required()), matchers(all.optional()), budget);
      case Plan.Any any -> new Matcher.Any(matchers(any.clauses()));
      case Plan.Some some -> new Matcher.Some(some.least(), matchers(some.clauses()), budget);
      case Plan.Scaled scaled -> new Matcher.Scaled(matcher(scaled.plan()), scaled.factor());
      case Plan.Filter only -> new Matcher.Bits(filter.bits(only.query()));
    };
  }

  private List<Matcher> matchers(List<Plan> plans) {
    List<Matcher> out = new ArrayList<>(plans.size());
    for (Plan plan : plans) {
      out.add(matcher(plan));
    }
    return out;
  }

  private WordMatcher words(Plan.Words words) {
    List<WordMatcher.FieldPart> parts = new ArrayList<>();
    for (Plan.Part part : words.parts()) {
      addParts(part, parts);
    }
    return new WordMatcher(parts, words.idf());
  }

  /** The parts of a plan's part in this segment: none, one, or one for each of a few terms. */
  void addParts(Plan.Part part, List<WordMatcher.FieldPart> parts) {
    Field field = part.field();
    switch (part.source()) {
      case Plan.Term term -> {
        Postings postings = postings(field, term.term(), false);
        if (postings != null) {
          parts.add(fieldPart(part, new Occurrences.Term(postings), 1));
        }
      }
      case Plan.Positions positions -> {
        Occurrences together = together(field, positions);
        if (together != null) {
          parts.add(fieldPart(part, together, 1));
        }
      }
      case Plan.Terms terms -> {
        List<TermRule.Found> found = statistics.terms(segment, field, terms.rule());
        if (found.size() > MAX_SIDE_BY_SIDE) {
          parts.add(fieldPart(part, filter.sums(part, () -> sums(field, found)).walk(), 1));
          return;
        }
        for (TermRule.Found term : found) {
          parts.add(
              fieldPart(
                  part, new Occurrences.Term(postings(field, term.place())), term.strength()));
        }
      }
    }
  }

  private WordMatcher.FieldPart fieldPart(
      Plan.Part part, Occurrences occurrences, double strength) {
    Field field = part.field();
    boolean text = field.type() == FieldType.TEXT;
    Factors known =
        factors.computeIfAbsent(
            field.name() + ' ' + part.weight(),
            name ->
                new Factors(
                    factors.size(),
                    text
                        ? WordMatcher.factors(part.weight(), statistics.averageLength(field))
                        : WordMatcher.factors(part.weight())));
    return new WordMatcher.FieldPart(
        known.number,
        field.name(),
        occurrences,
        text ? segment.lengths(field) : null,
        known.byLength,
        strength);
  }

  /** What an occurrence in a field counts, by length code. */
  private record Factors(int number, double[] byLength) {}

  private @Nullable Postings postings(Field field, byte[] term, boolean positions) {
    Dictionary.Walk walk = segment.terms(field).walk();
    return walk.seek(term) ? segment.postings(field, walk, positions) : null;
  }

  private Postings postings(Field field, int place) {
    Dictionary.Walk walk = segment.terms(field).walk();
    walk.goTo(place);
    return segment.postings(field, walk, false);
  }

  private Sums sums(Field field, List<TermRule.Found> terms) {
    budget.take(5L * filter.rows());
    Sums sums = new Sums(segment, field, filter.rows());
    Dictionary.Walk walk = segment.terms(field).walk();
    for (TermRule.Found term : terms) {
      walk.goTo(term.place());
      budget.mayContinue(0);
      sums.add(segment.postings(field, walk, false), term.strength());
    }
    return sums;
  }

  private @Nullable Occurrences together(Field field, Plan.Positions positions) {
    if (field.type() != FieldType.TEXT) {
      return null;
    }
    List<List<PositionalOccurrences.Way>> units = new ArrayList<>();
    for (Plan.Unit unit : positions.units()) {
      List<PositionalOccurrences.Way> ways = new ArrayList<>();
      for (Plan.Way way : unit.ways()) {
        List<List<Postings>> slots = new ArrayList<>();
        for (Plan.Slot slot : way.slots()) {
          List<Postings> here = slot(field, slot);
          if (!here.isEmpty()) {
            slots.add(here);
          }
        }
        if (slots.size() == way.slots().size()) {
          ways.add(new PositionalOccurrences.Way(slots, way.offsets()));
        }
      }
      if (ways.isEmpty()) {
        return null;
      }
      units.add(ways);
    }
    return new PositionalOccurrences(units, positions.match(), positions.shared(), budget);
  }

  private List<Postings> slot(Field field, Plan.Slot slot) {
    List<Postings> here = new ArrayList<>();
    for (byte[] term : slot.terms()) {
      Postings postings = postings(field, term, true);
      if (postings != null) {
        here.add(postings);
      }
    }
    if (slot.beginning() != null) {
      Dictionary.Walk walk = segment.terms(field).walk();
      for (TermRule.Found found : statistics.terms(segment, field, slot.beginning())) {
        walk.goTo(found.place());
        here.add(segment.postings(field, walk, true));
      }
    }
    return here;
  }
}
