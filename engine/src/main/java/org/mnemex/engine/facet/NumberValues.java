package org.mnemex.engine.facet;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.PriorityQueue;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.NumberRange;
import org.mnemex.engine.text.Folding;

/** Counts by value of a numeric field. */
final class NumberValues extends FacetCounter {
  private final ValueFacet request;
  private final Field field;
  private final Map<Long, long[]> counts = new HashMap<>();

  NumberValues(ValueFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    ColumnScan scan = new ColumnScan(segment.column(field));
    ColumnScan.Dense dense = scan.dense(docs);
    if (dense != null) {
      for (int i = 0; i < dense.counts().length; i++) {
        if (dense.counts()[i] > 0) {
          counts.computeIfAbsent(dense.least() + i, value -> new long[1])[0] += dense.counts()[i];
        }
      }
      return;
    }
    scan.forEach(
        docs,
        (doc, values, from, end) -> {
          for (int i = from; i < end; i++) {
            // Values are sorted, so duplicates are adjacent; they count once.
            if (i == from || values[i] != values[i - 1]) {
              counts.computeIfAbsent(values[i], value -> new long[1])[0]++;
            }
          }
          refuseTooMany();
        });
  }

  private void refuseTooMany() {
    if (counts.size() > MAX_VALUES) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d values; count ranges instead"
              .formatted(request.name(), MAX_VALUES));
    }
  }

  @Override
  public FacetPart part() {
    Map<Long, Long> all = new HashMap<>();
    counts.forEach((value, count) -> all.put(value, count[0]));
    return new FacetPart.Numbers(all);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Numbers) part)
        .counts()
        .forEach((value, count) -> counts.computeIfAbsent(value, own -> new long[1])[0] += count);
    refuseTooMany();
  }

  @Override
  public FacetResult result() {
    // Normalised to the field's scale: 1.5 and 1.50 are one choice.
    long[] exact = NumberRange.exact(field, request.chosen());
    List<Object> chosen = new ArrayList<>();
    for (Object value : request.chosen()) {
      long[] number = NumberRange.exact(field, List.of(value));
      Object written = number.length == 0 ? value : field.fromNumber(number[0]);
      if (!chosen.contains(written)) {
        chosen.add(written);
      }
    }
    return request.search().isEmpty() && request.order() != FacetOrder.GIVEN
        ? first(exact, chosen)
        : searched(exact, chosen);
  }

  private FacetResult searched(long[] exact, List<Object> chosen) {
    List<FacetResult.Value> values = new ArrayList<>();
    String search = Folding.foldCase(request.search());
    counts.forEach(
        (number, count) -> {
          FacetResult.Value value = value(number, count[0], exact);
          if (value.chosen() || TextValues.hasWord(value.value().toString(), search)) {
            values.add(value);
          }
        });
    return ValueOrder.result(request, chosen, field, values);
  }

  /** Makes values only of numbers that may be shown; there may be very many. */
  private FacetResult first(long[] exact, List<Object> chosen) {
    Comparator<Map.Entry<Long, long[]>> byNumber = Map.Entry.comparingByKey();
    Comparator<Map.Entry<Long, long[]>> order =
        request.order() == FacetOrder.COUNT
            ? Comparator.<Map.Entry<Long, long[]>>comparingLong(entry -> -entry.getValue()[0])
                .thenComparing(byNumber)
            : byNumber;
    PriorityQueue<Map.Entry<Long, long[]>> first = new PriorityQueue<>(order.reversed());
    List<FacetResult.Value> values = new ArrayList<>();
    for (Map.Entry<Long, long[]> entry : counts.entrySet()) {
      if (NumberRange.has(exact, entry.getKey())) {
        values.add(value(entry.getKey(), entry.getValue()[0], exact));
      } else if (first.size() < request.limit()) {
        first.add(entry);
      } else if (!first.isEmpty() && order.compare(entry, first.element()) < 0) {
        first.remove();
        first.add(entry);
      }
    }
    first.forEach(entry -> values.add(value(entry.getKey(), entry.getValue()[0], exact)));
    FacetResult shown = ValueOrder.result(request, chosen, field, values);
    long missing = shown.values().stream().filter(value -> value.count() == 0).count();
    return new FacetResult(
        request.name(), shown.values(), counts.size() + missing > shown.values().size());
  }

  private FacetResult.Value value(long number, long count, long[] exact) {
    return new FacetResult.Value(field.fromNumber(number), count, NumberRange.has(exact, number));
  }
}
