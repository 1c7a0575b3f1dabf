package org.mnemex.engine.facet;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
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
  public void add(FacetCounter other) {
    ((NumberValues) other)
        .counts.forEach(
            (value, count) -> counts.computeIfAbsent(value, own -> new long[1])[0] += count[0]);
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
    List<FacetResult.Value> values = new ArrayList<>();
    String search = Folding.foldCase(request.search());
    counts.forEach(
        (number, count) -> {
          Object value = field.fromNumber(number);
          boolean isChosen = NumberRange.has(exact, number);
          if (isChosen || TextValues.hasWord(value.toString(), search)) {
            values.add(new FacetResult.Value(value, count[0], isChosen));
          }
        });
    return ValueOrder.result(request, chosen, field, values);
  }
}
