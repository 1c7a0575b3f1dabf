package org.mnemex.engine.facet;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/** Counts one facet over the segments, one after the other. */
public final class FacetCounter {
  private final FacetRequest request;
  private final Field field;
  private final Map<Object, Long> counts = new HashMap<>();

  /**
   * A counter that has counted nothing.
   *
   * @param field the facet's field, which has a column
   */
  public FacetCounter(FacetRequest request, Field field) {
    this.request = request;
    this.field = field;
  }

  /** Counts the documents of a segment. */
  public void count(SegmentReader segment, DocBits docs) {
    switch (request) {
      case FacetRequest.Values values -> {
        if (field.type() == FieldType.EXACT) {
          countOrdinals(segment.ordinals(field), docs);
        } else {
          countNumbers(segment.numbers(field), docs);
        }
      }
      case FacetRequest.Ranges ranges -> countRanges(ranges, segment.numbers(field), docs);
    }
  }

  private void countOrdinals(SegmentReader.OrdinalColumn column, DocBits docs) {
    Dictionary values = column.values();
    int[] perOrdinal = new int[values.size()];
    for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
      int end = column.end(doc);
      for (int i = column.first(doc); i < end; i++) {
        perOrdinal[column.ordinal(i)]++;
      }
    }
    for (int ordinal = 0; ordinal < perOrdinal.length; ordinal++) {
      if (perOrdinal[ordinal] > 0) {
        String value = new String(values.get(ordinal), StandardCharsets.UTF_8);
        counts.merge(value, (long) perOrdinal[ordinal], Long::sum);
      }
    }
  }

  private void countNumbers(SegmentReader.NumberColumn column, DocBits docs) {
    Map<Long, Long> perNumber = new HashMap<>();
    for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
      int first = column.first(doc);
      int end = column.end(doc);
      for (int i = first; i < end; i++) {
        // Values are in order, so an equal one stands just before; a document counts once a value.
        if (i == first || column.value(i) != column.value(i - 1)) {
          perNumber.merge(column.value(i), 1L, Long::sum);
        }
      }
    }
    perNumber.forEach(
        (number, count) -> counts.merge(field.type().fromNumber(number), count, Long::sum));
  }

  private void countRanges(
      FacetRequest.Ranges request, SegmentReader.NumberColumn column, DocBits docs) {
    for (FacetRequest.Interval interval : intervals(request)) {
      long from = interval.from() == null ? Long.MIN_VALUE : field.type().toNumber(interval.from());
      long to = interval.to() == null ? Long.MAX_VALUE : field.type().toNumber(interval.to());
      boolean open = interval.to() == null;
      long count = 0;
      for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
        int end = column.end(doc);
        for (int i = column.first(doc); i < end; i++) {
          long value = column.value(i);
          if (value >= from && (open || value < to)) {
            count++;
            break;
          }
        }
      }
      counts.merge(interval, count, Long::sum);
    }
  }

  private static List<FacetRequest.Interval> intervals(FacetRequest.Ranges request) {
    List<FacetRequest.Interval> all = new ArrayList<>(request.ranges());
    request.chosen().stream().filter(interval -> !all.contains(interval)).forEach(all::add);
    return all;
  }

  /** The counts of everything counted. */
  public FacetResult result() {
    return switch (request) {
      case FacetRequest.Values values -> valuesResult(values);
      case FacetRequest.Ranges ranges ->
          new FacetResult(
              ranges.name(),
              intervals(ranges).stream()
                  .map(
                      interval ->
                          new FacetResult.Value(
                              interval,
                              counts.getOrDefault(interval, 0L),
                              ranges.chosen().contains(interval)))
                  .toList(),
              false);
    };
  }

  private FacetResult valuesResult(FacetRequest.Values request) {
    List<FacetResult.Value> all = new ArrayList<>();
    counts.forEach(
        (value, count) ->
            all.add(new FacetResult.Value(value, count, request.chosen().contains(value))));
    for (Object chosen : request.chosen()) {
      if (!counts.containsKey(chosen)) {
        all.add(new FacetResult.Value(chosen, 0, true));
      }
    }
    Comparator<FacetResult.Value> byValue = (a, b) -> compareValues(a.value(), b.value());
    all.sort(
        request.order() == FacetRequest.Order.VALUE
            ? byValue
            : Comparator.comparingLong(FacetResult.Value::count).reversed().thenComparing(byValue));
    List<FacetResult.Value> shown = new ArrayList<>();
    int taken = 0;
    for (FacetResult.Value value : all) {
      if (taken < request.limit() || value.chosen()) {
        shown.add(value);
      }
      taken++;
    }
    return new FacetResult(request.name(), shown, all.size() > shown.size());
  }

  private int compareValues(Object a, Object b) {
    if (field.type().isNumeric()) {
      return Long.compare(field.type().toNumber(a), field.type().toNumber(b));
    }
    String x = (String) a;
    String y = (String) b;
    int folded = x.toLowerCase(Locale.ROOT).compareTo(y.toLowerCase(Locale.ROOT));
    return folded != 0 ? folded : x.compareTo(y);
  }
}
