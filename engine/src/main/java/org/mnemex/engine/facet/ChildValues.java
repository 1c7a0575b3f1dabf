package org.mnemex.engine.facet;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.text.Folding;

/** Counts the values of a field of child rows, by document or by row. */
final class ChildValues extends FacetCounter {
  private final RowFacet request;
  private final Field field;

  /** Counts by value; for folded fields by folded form. */
  private final Map<Object, Counted> counts = new HashMap<>();

  /** How many documents or rows were looked at, in all segments. */
  private long looked;

  /** A value, as it is shown. */
  private static final class Counted {
    private final Object shown;
    private long count;

    /** For which document or row it was counted last. */
    private long last;

    Counted(Object shown) {
      this.shown = shown;
    }
  }

  ChildValues(RowFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    Column column = segment.column(field);
    PackedNumbers firsts = segment.groupFirsts(segment.schema().groupOf(field));
    Dictionary values = field.type().isOrdinal() ? segment.values(field) : null;
    IntFunction<Counted> counted = values == null ? byNumber(column) : byPlace(column, values);
    for (int doc = docs.next(0); doc >= 0 && budget.step(); doc = docs.next(doc + 1)) {
      looked++;
      int end = (int) firsts.get(doc + 1L);
      for (int row = (int) firsts.get(doc); row < end; row++) {
        looked += request.rows() ? 1 : 0;
        int last = column.end(row);
        for (int i = column.first(row); i < last; i++) {
          Counted one = counted.apply(i);
          if (one.last != looked) {
            one.last = looked;
            one.count++;
          }
        }
      }
    }
  }

  /** What a value of the column is counted as, by its index. */
  private IntFunction<Counted> byNumber(Column column) {
    Map<Long, Counted> known = new HashMap<>();
    return i -> known.computeIfAbsent(column.value(i), number -> counted(field.fromNumber(number)));
  }

  /** What a value of the column is counted as, by its index; values have places in a dictionary. */
  private IntFunction<Counted> byPlace(Column column, Dictionary values) {
    budget.take(4L * values.size());
    @Nullable Counted[] known = new Counted[values.size()];
    return i -> {
      int place = (int) column.value(i);
      Counted one = known[place];
      if (one == null) {
        one = counted(new String(values.get(place), StandardCharsets.UTF_8));
        known[place] = one;
      }
      return one;
    };
  }

  private Counted counted(Object shown) {
    Counted one = counts.computeIfAbsent(term(shown), term -> new Counted(shown));
    if (counts.size() > MAX_VALUES) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d values".formatted(request.name(), MAX_VALUES));
    }
    return one;
  }

  private Object term(Object value) {
    return field.fold() && value instanceof String text ? Folding.foldCase(text) : value;
  }

  @Override
  public FacetResult result() {
    List<Object> chosen = new ArrayList<>();
    for (Object value : request.values().chosen()) {
      Counted one = counts.get(term(value));
      chosen.add(one == null ? value : one.shown);
    }
    String search = Folding.foldCase(request.values().search());
    List<FacetResult.Value> values = new ArrayList<>();
    for (Counted one : counts.values()) {
      boolean isChosen = chosen.contains(one.shown);
      if (isChosen || TextValues.hasWord(one.shown.toString(), search)) {
        values.add(new FacetResult.Value(one.shown, one.count, isChosen));
      }
    }
    return ValueOrder.result(request.values(), chosen, field, values);
  }
}
