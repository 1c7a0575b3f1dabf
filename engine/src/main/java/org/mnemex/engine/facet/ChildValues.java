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

  /** How often a value was counted. */
  private static final class Counted {
    private long count;

    /** For which document or row it was counted last. */
    private long last;

    /** Of folded fields only. */
    private @Nullable Spellings spellings;

    private Spellings spellings() {
      Spellings known = spellings == null ? new Spellings() : spellings;
      spellings = known;
      return known;
    }
  }

  ChildValues(RowFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    Column.Walk column = segment.column(field).walk();
    if (field.type().isOrdinal()) {
      Places places = new Places(column, segment.values(field));
      count(segment, column, docs, places);
      places.addSpellings();
    } else {
      Map<Long, Counted> known = new HashMap<>();
      count(
          segment,
          column,
          docs,
          i -> known.computeIfAbsent(column.value(i), number -> counted(field.fromNumber(number))));
    }
  }

  /**
   * @param counted what a value of the column is counted as, by its index
   */
  private void count(
      SegmentReader segment, Column.Walk column, DocBits docs, IntFunction<Counted> counted) {
    PackedNumbers.Walk firsts = segment.groupFirsts(segment.schema().groupOf(field)).walk();
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

  /** What the values of a column are counted as that have places in a dictionary. */
  private final class Places implements IntFunction<Counted> {
    private final Column.Walk column;
    private final Dictionary values;
    private final @Nullable Counted[] known;
    private final int[] often;

    Places(Column.Walk column, Dictionary values) {
      budget.take(8L * values.size());
      this.column = column;
      this.values = values;
      this.known = new Counted[values.size()];
      this.often = new int[values.size()];
    }

    @Override
    public Counted apply(int i) {
      int place = (int) column.value(i);
      often[place]++;
      Counted one = known[place];
      if (one == null) {
        one = counted(value(place));
        known[place] = one;
      }
      return one;
    }

    void addSpellings() {
      for (int place = 0; field.fold() && place < known.length; place++) {
        Counted one = known[place];
        if (one != null) {
          one.spellings().add(value(place), often[place]);
        }
      }
    }

    private String value(int place) {
      return new String(values.get(place), StandardCharsets.UTF_8);
    }
  }

  private Counted counted(Object value) {
    return ofTerm(term(value));
  }

  private Counted ofTerm(Object term) {
    Counted one = counts.computeIfAbsent(term, value -> new Counted());
    if (counts.size() > MAX_VALUES) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d values".formatted(request.name(), MAX_VALUES));
    }
    return one;
  }

  @Override
  public FacetPart part() {
    if (!field.type().isOrdinal()) {
      Map<Long, Long> numbers = new HashMap<>();
      counts.forEach((value, one) -> numbers.put(field.toNumber(value), one.count));
      return new FacetPart.Numbers(numbers);
    }
    Map<String, FacetPart.Ways> spelt = new HashMap<>();
    Map<String, Long> texts = new HashMap<>();
    counts.forEach(
        (value, one) -> {
          if (one.spellings == null) {
            texts.put((String) value, one.count);
          } else {
            spelt.put((String) value, one.spellings.ways(one.count));
          }
        });
    return field.fold() ? new FacetPart.Spelt(spelt) : new FacetPart.Texts(texts);
  }

  @Override
  public void add(FacetPart part) {
    switch (part) {
      case FacetPart.Numbers numbers ->
          numbers
              .counts()
              .forEach((number, count) -> ofTerm(field.fromNumber(number)).count += count);
      case FacetPart.Texts texts ->
          texts.counts().forEach((text, count) -> ofTerm(text).count += count);
      case FacetPart.Spelt spelt ->
          spelt
              .counts()
              .forEach(
                  (folded, theirs) -> {
                    Counted own = ofTerm(folded);
                    own.count += theirs.count();
                    own.spellings().add(theirs);
                  });
      default -> throw new IllegalArgumentException("no counts of child rows: " + part);
    }
  }

  private Object term(Object value) {
    return field.fold() && value instanceof String text ? Folding.foldCase(text) : value;
  }

  private static Object shown(Object term, Counted counted) {
    return counted.spellings == null ? term : counted.spellings.shown();
  }

  @Override
  public FacetResult result() {
    List<Object> chosen = new ArrayList<>();
    for (Object value : request.values().chosen()) {
      Counted one = counts.get(term(value));
      chosen.add(one == null ? value : shown(term(value), one));
    }
    String search = Folding.foldCase(request.values().search());
    List<FacetResult.Value> values = new ArrayList<>();
    counts.forEach(
        (term, one) -> {
          Object shown = shown(term, one);
          boolean isChosen = chosen.contains(shown);
          if (isChosen || TextValues.hasWord(shown.toString(), search)) {
            values.add(new FacetResult.Value(shown, one.count, isChosen));
          }
        });
    return ValueOrder.result(request.values(), chosen, field, values);
  }
}
