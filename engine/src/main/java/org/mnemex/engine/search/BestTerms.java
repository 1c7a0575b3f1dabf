package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.shard.Fact;

/** Chooses the best of the terms that a rule describes, for all segments together. */
final class BestTerms {
  /** Of more candidates in a shard, those are told that seem to be the best there. */
  private static final int MAX_CANDIDATES = 10_000;

  private final Snapshot snapshot;
  private final Field field;
  private final Budget budget;

  BestTerms(Snapshot snapshot, Field field, Budget budget) {
    this.snapshot = snapshot;
    this.field = field;
    this.budget = budget;
  }

  /** Where a term stands in a segment. */
  record Place(SegmentView segment, TermRule.Found found) {}

  /** A term with the live documents that have it. */
  record Counted(String term, List<Place> places, float strength, long documents) {
    /** The worst first, by strength, then documents, then in order of the terms. */
    static final Comparator<Counted> WORST_FIRST =
        Comparator.comparingDouble(Counted::strength)
            .thenComparingLong(Counted::documents)
            .thenComparing(Counted::term, Comparator.reverseOrder());

    /** Before deletions are looked at: not less than what is left. */
    static Counted atMost(String term, List<Place> places) {
      return new Counted(
          term,
          places,
          places.getFirst().found.strength(),
          places.stream().mapToLong(place -> place.found.documents()).sum());
    }
  }

  /** The chosen terms of each segment, in order. */
  Map<SegmentReader, List<TermRule.Found>> of(TermRule.Best rule) {
    Map<SegmentReader, List<TermRule.Found>> chosen = new HashMap<>();
    snapshot.segments().forEach(view -> chosen.put(view.reader(), new ArrayList<>()));
    for (Counted one : best(rule)) {
      for (Place place : one.places) {
        chosen.get(place.segment.reader()).add(place.found);
      }
    }
    chosen.values().forEach(terms -> terms.sort(Comparator.comparingInt(TermRule.Found::place)));
    return chosen;
  }

  /** The chosen terms, in no particular order. */
  Collection<Counted> best(TermRule.Best rule) {
    TermRule exact = rule.exact();
    PriorityQueue<Counted> best = exact == null ? new PriorityQueue<>() : best(exact, rule.most());
    return best.size() < rule.most() ? best(rule.rule(), rule.most()) : best;
  }

  /** What is to be known of a shard to choose among the terms of all shards. */
  Fact.Terms candidates(TermRule.Best rule) {
    TermRule certain = rule.exact();
    List<Fact.Term> exact = certain == null ? List.of() : told(certain);
    return new Fact.Terms(
        rule.most(), exact, exact.size() < rule.most() ? told(rule.rule()) : List.of());
  }

  private List<Fact.Term> told(TermRule rule) {
    return candidates(rule).stream()
        .sorted(Counted.WORST_FIRST.reversed())
        .limit(MAX_CANDIDATES)
        .map(this::counted)
        .filter(one -> one.documents > 0)
        .map(one -> new Fact.Term(one.term, one.strength, one.documents))
        .toList();
  }

  private PriorityQueue<Counted> best(TermRule rule, int most) {
    PriorityQueue<Counted> best = new PriorityQueue<>(Counted.WORST_FIRST);
    List<Counted> candidates = candidates(rule);
    candidates.sort(Counted.WORST_FIRST.reversed());
    for (Counted candidate : candidates) {
      if (best.size() == most && Counted.WORST_FIRST.compare(candidate, best.element()) <= 0) {
        // It cannot be in more documents than it seems to be, and neither can those after it.
        break;
      }
      Counted counted = counted(candidate);
      if (counted.documents > 0) {
        best.add(counted);
      }
      if (best.size() > most) {
        best.remove();
      }
    }
    return best;
  }

  private List<Counted> candidates(TermRule rule) {
    Map<String, List<Place>> places = new HashMap<>();
    for (SegmentView view : snapshot.segments()) {
      Dictionary terms = view.reader().terms(field);
      Dictionary.Walk walk = terms.walk();
      for (TermRule.Found found : rule.in(terms, budget)) {
        walk.goTo(found.place());
        places
            .computeIfAbsent(
                new String(walk.term(), StandardCharsets.UTF_8), term -> new ArrayList<>())
            .add(new Place(view, found));
      }
    }
    List<Counted> candidates = new ArrayList<>();
    places.forEach((term, where) -> candidates.add(Counted.atMost(term, where)));
    return candidates;
  }

  private Counted counted(Counted candidate) {
    long documents = 0;
    for (Place place : candidate.places) {
      Dictionary.Walk walk = place.segment.reader().terms(field).walk();
      walk.goTo(place.found.place());
      documents += place.segment.having(field, walk);
    }
    return new Counted(candidate.term, candidate.places, candidate.strength, documents);
  }
}
