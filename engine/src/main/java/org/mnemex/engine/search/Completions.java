package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
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

  /** Of more terms, in all segments together, those are taken that are frequent in one of them. */
  private static final int MAX_COUNTED = 10_000;

  private Completions() {}

  /**
   * A term.
   *
   * @param strength 1 if it begins with what was typed, less with typing errors
   * @param documents in how many documents it stands
   */
  public record Completion(String term, double strength, long documents) {
    private static final Comparator<Completion> BEST_FIRST =
        Comparator.comparingDouble(Completion::strength)
            .thenComparingLong(Completion::documents)
            .reversed()
            .thenComparing(Completion::term);
  }

  /**
   * The best terms of documents that are there: without typing errors first, then those in most
   * documents.
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
    if (prefix) {
      Begun begun = begun(snapshot, field, beginning, most, budget);
      if (begun.isEnough) {
        return begun.best;
      }
    }
    return new BestTerms(snapshot, field, budget)
        .best(rule(beginning, edits, prefix, most)).stream()
            .map(one -> new Completion(one.term(), one.strength(), one.documents()))
            .sorted(Completion.BEST_FIRST)
            .toList();
  }

  /** What describes the terms. */
  static TermRule.Best rule(String beginning, int edits, boolean prefix, int most) {
    return new TermRule.Best(new TermRule.Similar(beginning, edits, 1, prefix), most);
  }

  /**
   * Terms with a beginning.
   *
   * @param isEnough whether no others need to be looked at
   */
  private record Begun(List<Completion> best, boolean isEnough) {}

  /**
   * The best of the terms that are the most frequent ones of some segment. Often their counts tell
   * that no other can be among the best of all (Fagin, Lotem and Naor, "Optimal Aggregation
   * Algorithms for Middleware", 2003), and looking at all terms of a short beginning takes long.
   */
  private static Begun begun(
      Snapshot snapshot, Field field, String beginning, int most, Budget budget) {
    Set<String> terms = new HashSet<>();
    long all = 0;
    long others = 0;
    for (SegmentView view : snapshot.segments()) {
      Frequent here = frequent(view.reader(), field, beginning, 2 * most, budget);
      terms.addAll(here.terms);
      all += here.all;
      others += here.others;
    }
    List<Completion> counted = new ArrayList<>();
    for (String term : terms) {
      long documents = documents(snapshot, field, term.getBytes(StandardCharsets.UTF_8));
      if (documents > 0) {
        counted.add(new Completion(term, 1, documents));
      }
    }
    counted.sort(Completion.BEST_FIRST);
    boolean isCertain = counted.size() >= most && counted.get(most - 1).documents > others;
    return new Begun(
        counted.subList(0, Math.min(most, counted.size())), isCertain || all > MAX_COUNTED);
  }

  private static long documents(Snapshot snapshot, Field field, byte[] term) {
    long documents = 0;
    for (SegmentView view : snapshot.segments()) {
      Dictionary.Walk walk = view.reader().terms(field).walk();
      documents += walk.seek(term) ? view.having(field, walk) : 0;
    }
    return documents;
  }

  /**
   * The most frequent terms of a segment with a beginning.
   *
   * @param all how many there are with that beginning
   * @param others in how many documents of the segment one of the rest stands at most
   */
  private record Frequent(List<String> terms, long all, long others) {}

  private static Frequent frequent(
      SegmentReader segment, Field field, String beginning, int most, Budget budget) {
    if (beginning.codePointCount(0, beginning.length()) > KEPT_UP_TO) {
      return read(segment.terms(field), beginning, most, budget);
    }
    // Those of a short beginning are the same every time, so a segment keeps them.
    Map<String, Frequent> known =
        segment.derived("terms by beginning of " + field.name(), Beginnings::new);
    String key = most + " " + beginning;
    Frequent terms = known.get(key);
    if (terms == null) {
      terms = read(segment.terms(field), beginning, most, budget);
      // What was cut short is no answer for others.
      if (!budget.isOver()) {
        known.put(key, terms);
      }
    }
    return terms;
  }

  private static Frequent read(Dictionary terms, String beginning, int most, Budget budget) {
    byte[] prefix = beginning.getBytes(StandardCharsets.UTF_8);
    List<TermRule.Found> all = new TermRule.Prefix(prefix).in(terms, budget);
    List<TermRule.Found> best = new ArrayList<>(all);
    best.sort(TermRule.Best.FIRST);
    best = best.subList(0, Math.min(most, best.size()));
    Dictionary.Walk walk = terms.walk();
    List<String> found = new ArrayList<>();
    for (TermRule.Found term : best) {
      walk.goTo(term.place());
      found.add(new String(walk.term(), StandardCharsets.UTF_8));
    }
    return new Frequent(found, all.size(), all.size() <= most ? 0 : best.getLast().documents());
  }

  /** The terms of the beginnings that were asked for last. Thread-safe. */
  private static final class Beginnings extends LinkedHashMap<String, Frequent> {
    private static final long serialVersionUID = 1L;

    /** Anything may be typed. */
    private static final int MOST = 1_000;

    Beginnings() {
      super(16, 0.75f, true);
    }

    @Override
    public synchronized @Nullable Frequent get(Object beginning) {
      return super.get(beginning);
    }

    @Override
    public synchronized @Nullable Frequent put(String beginning, Frequent terms) {
      return super.put(beginning, terms);
    }

    @Override
    protected boolean removeEldestEntry(Map.Entry<String, Frequent> eldest) {
      return size() > MOST;
    }
  }
}
