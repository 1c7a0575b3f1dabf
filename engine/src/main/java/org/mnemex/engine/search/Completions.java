package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;

/** The terms of an edition that a word being typed may become. */
public final class Completions {
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
    Map<String, Completion> found = new HashMap<>();
    for (SegmentView view : snapshot.segments()) {
      Dictionary terms = view.reader().terms(field);
      Dictionary.Walk walk = terms.walk();
      for (TermRule.Found term : rule.in(terms, budget)) {
        walk.goTo(term.place());
        String text = new String(walk.term(), StandardCharsets.UTF_8);
        found.merge(
            text,
            new Completion(text, term.strength(), term.documents()),
            (a, b) -> new Completion(text, a.strength, a.documents + b.documents));
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
}
