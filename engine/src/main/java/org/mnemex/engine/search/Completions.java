package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;

/** The terms of an edition that a word being typed may become. */
public final class Completions {
  /** Up to so many characters many terms begin with a word being typed, and few words differ. */
  private static final int KEPT_UP_TO = 2;

  private Completions() {}

  /**
   * A term.
   *
   * @param strength 1 if it begins with what was typed, less with typing errors
   * @param documents in how many documents it stands, about
   */
  public record Completion(String term, double strength, long documents) {}

  /**
   * The best terms: without typing errors first, then those in most documents.
   *
   * @param beginning analysed text
   * @param edits typing errors at most
   * @param prefix whether the term may be longer
   */
  public static List<Completion> of(
      Snapshot snapshot,
      Field field,
      String beginning,
      int edits,
      boolean prefix,
      int most,
      Budget budget) {
    TermRule rule = new TermRule.Best(new TermRule.Similar(beginning, edits, 1, prefix), 2 * most);
    boolean kept =
        edits == 0 && prefix && beginning.codePointCount(0, beginning.length()) <= KEPT_UP_TO;
    Map<String, Completion> found = new HashMap<>();
    for (SegmentView view : snapshot.segments()) {
      SegmentReader segment = view.reader();
      List<Completion> terms =
          kept
              ? kept(segment, field, beginning, most, rule, budget)
              : terms(segment.terms(field), rule, budget);
      for (Completion term : terms) {
        found.merge(
            term.term,
            term,
            (a, b) -> new Completion(a.term, a.strength, a.documents + b.documents));
      }
    }
    List<Completion> best = new ArrayList<>(found.values());
    best.sort(
        Comparator.comparingDouble(Completion::strength)
            .thenComparingLong(Completion::documents)
            .reversed()
            .thenComparing(Completion::term));
    return best.subList(0, Math.min(most, best.size()));
  }

  /** Those of a beginning are the same every time, so a segment keeps them. */
  private static List<Completion> kept(
      SegmentReader segment,
      Field field,
      String beginning,
      int most,
      TermRule rule,
      Budget budget) {
    Map<String, List<Completion>> known =
        segment.derived("terms by beginning of " + field.name(), Beginnings::new);
    String key = most + " " + beginning;
    List<Completion> terms = known.get(key);
    if (terms == null) {
      terms = terms(segment.terms(field), rule, budget);
      // What was cut short is no answer for others.
      if (!budget.isOver()) {
        known.put(key, terms);
      }
    }
    return terms;
  }

  /** The terms of the beginnings that were asked for last. Thread-safe. */
  private static final class Beginnings extends LinkedHashMap<String, List<Completion>> {
    private static final long serialVersionUID = 1L;

    /** Anything may be typed. */
    private static final int MOST = 1_000;

    Beginnings() {
      super(16, 0.75f, true);
    }

    @Override
    public synchronized @Nullable List<Completion> get(Object beginning) {
      return super.get(beginning);
    }

    @Override
    public synchronized @Nullable List<Completion> put(String beginning, List<Completion> terms) {
      return super.put(beginning, terms);
    }

    @Override
    protected boolean removeEldestEntry(Map.Entry<String, List<Completion>> eldest) {
      return size() > MOST;
    }
  }

  private static List<Completion> terms(Dictionary terms, TermRule rule, Budget budget) {
    Dictionary.Walk walk = terms.walk();
    List<Completion> found = new ArrayList<>();
    for (TermRule.Found term : rule.in(terms, budget)) {
      walk.goTo(term.place());
      String text = new String(walk.term(), StandardCharsets.UTF_8);
      found.add(new Completion(text, term.strength(), term.documents()));
    }
    return found;
  }
}
