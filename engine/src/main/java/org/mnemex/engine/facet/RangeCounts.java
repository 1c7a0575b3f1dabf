package org.mnemex.engine.facet;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.NumberRange;

/** Counts by given ranges, which may overlap; all of them in one pass. */
final class RangeCounts extends FacetCounter {
  private final RangeFacet request;
  private final Field field;
  private final List<Interval> intervals;
  private final long[] from;
  private final long[] to;
  private final long[] counts;

  RangeCounts(RangeFacet request, Field field) {
    this.request = request;
    this.field = field;
    this.intervals = new ArrayList<>(request.ranges());
    request.chosen().stream().filter(i -> !intervals.contains(i)).forEach(intervals::add);
    int n = intervals.size();
    this.from = new long[n];
    this.to = new long[n];
    this.counts = new long[n];
    for (int i = 0; i < n; i++) {
      Interval interval = intervals.get(i);
      NumberRange range = NumberRange.of(field, interval.from(), true, interval.to(), false);
      from[i] = range.from();
      to[i] = range.to();
    }
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    ColumnScan scan = new ColumnScan(segment.column(field));
    ColumnScan.Dense dense = scan.dense(docs);
    if (dense != null) {
      for (int at = 0; at < dense.counts().length; at++) {
        long value = dense.least() + at;
        for (int i = 0; dense.counts()[at] > 0 && i < from.length; i++) {
          if (value >= from[i] && value <= to[i]) {
            counts[i] += dense.counts()[at];
          }
        }
      }
      return;
    }
    scan.forEach(
        docs,
        (doc, values, first, end) -> {
          for (int i = 0; i < from.length; i++) {
            for (int at = first; at < end; at++) {
              long value = values[at];
              if (value >= from[i] && value <= to[i]) {
                counts[i]++;
                break;
              }
            }
          }
        });
  }

  /** By their places in the list of intervals, which is the same for the same request. */
  @Override
  public FacetPart part() {
    Map<Long, Long> all = new HashMap<>();
    for (int i = 0; i < counts.length; i++) {
      all.put((long) i, counts[i]);
    }
    return new FacetPart.Numbers(all);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Numbers) part).counts().forEach((i, count) -> counts[i.intValue()] += count);
  }

  @Override
  public FacetResult result() {
    List<FacetResult.Value> values = new ArrayList<>();
    for (int i = 0; i < counts.length; i++) {
      Interval interval = intervals.get(i);
      values.add(new FacetResult.Value(interval, counts[i], request.chosen().contains(interval)));
    }
    return new FacetResult(request.name(), values, false);
  }
}
