package org.mnemex.engine.suggest;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.search.Searcher;

/**
 * Completes what is typed with the values of an exact field that documents under a filter have. The
 * values of a segment are put in order once, when they are first asked for.
 */
public final class ValueCompletions {
  /** Of more values in a segment, those of the most documents are known. */
  private static final int MAX_VALUES = 100_000;

  /** Values looked up for each one wanted, as the filter may hide some. */
  private static final int LOOKED_UP = 4;

  private ValueCompletions() {}

  /**
   * The values that fit, the best first: those of most documents among equals.
   *
   * @param field an exact field that can be filtered by
   * @throws QueryRefusedException if it is no such field
   */
  public static List<Phrases.Found> of(
      Snapshot snapshot,
      Field field,
      String typed,
      int most,
      Query filter,
      SearchLimits limits,
      @Nullable FilterCache cache) {
    if (field.type() != FieldType.EXACT || !field.hasTerms() || field.isChild()) {
      throw new QueryRefusedException(
          "field '%s' cannot complete words: it is not an exact field with the use 'filter'"
              .formatted(field.name()));
    }
    Map<String, Phrases.Found> found = new HashMap<>();
    for (SegmentView view : snapshot.segments()) {
      Phrases values =
          view.reader()
              .derived("completions of " + field.name(), () -> values(view.reader(), field));
      for (Phrases.Found one : values.find(typed, LOOKED_UP * most)) {
        found.merge(one.phrase().text(), one, ValueCompletions::sum);
      }
    }
    return found.values().stream()
        .sorted(Phrases.Found.BEST_FIRST)
        .limit((long) LOOKED_UP * most)
        .filter(
            one -> {
              Query value = new Query.OneOf(field.name(), List.of(one.phrase().text()));
              return exists(snapshot, value, filter, limits, cache);
            })
        .limit(most)
        .toList();
  }

  private static Phrases.Found sum(Phrases.Found a, Phrases.Found b) {
    return new Phrases.Found(
        new Phrases.Phrase(a.phrase().text(), a.phrase().weight() + b.phrase().weight()),
        a.fit(),
        a.word(),
        a.typed());
  }

  private static boolean exists(
      Snapshot snapshot,
      Query value,
      Query filter,
      SearchLimits limits,
      @Nullable FilterCache cache) {
    SearchRequest one =
        new SearchRequest(value, filter, null, 0, 0, List.of(), Set.of(), List.of());
    return Searcher.any(snapshot, one.countingUpTo(1).within(limits), 1, cache).total() > 0;
  }

  private static Phrases values(SegmentReader reader, Field field) {
    PriorityQueue<Phrases.Phrase> kept =
        new PriorityQueue<>(Comparator.comparingDouble(Phrases.Phrase::weight));
    // The terms of a folded field are folded; its values are as they are written.
    boolean folded = field.fold() && field.hasColumn();
    Dictionary all = folded ? reader.values(field) : reader.terms(field);
    for (Dictionary.Walk walk = all.walk(); walk.next(); ) {
      String value = new String(walk.term(), StandardCharsets.UTF_8);
      kept.add(new Phrases.Phrase(value, folded ? 1 : (double) walk.number(0)));
      if (kept.size() > MAX_VALUES) {
        kept.remove();
      }
    }
    return Phrases.of(new ArrayList<>(kept));
  }
}
