package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;

/**
 * The values of an exact field that fit what is typed. The values of a segment are put in order
 * once, when they are first asked for.
 */
final class FieldValues {
  /** Of more values in a segment, those of the most documents are known. */
  private static final int MAX_VALUES = 100_000;

  private FieldValues() {}

  static List<Phrases.Found> of(Snapshot snapshot, Field field, String typed, int most) {
    Map<String, Phrases.Found> found = new HashMap<>();
    for (SegmentView view : snapshot.segments()) {
      Phrases values =
          view.reader()
              .derived("completions of " + field.name(), () -> values(view.reader(), field));
      add(found, values.find(typed, most));
    }
    return best(found, most);
  }

  /** Adds the same values' weights. */
  static void add(Map<String, Phrases.Found> all, List<Phrases.Found> some) {
    some.forEach(one -> all.merge(one.phrase().text(), one, FieldValues::sum));
  }

  static List<Phrases.Found> best(Map<String, Phrases.Found> all, int most) {
    return all.values().stream().sorted(Phrases.Found.BEST_FIRST).limit(most).toList();
  }

  private static Phrases.Found sum(Phrases.Found a, Phrases.Found b) {
    return new Phrases.Found(
        new Phrases.Phrase(a.phrase().text(), a.phrase().weight() + b.phrase().weight()),
        a.fit(),
        a.word(),
        a.typed());
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
