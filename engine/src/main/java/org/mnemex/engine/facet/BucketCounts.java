package org.mnemex.engine.facet;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.NumberRange;

/**
 * Counts by computed buckets: calendar units, or intervals of equal width. A bucket is created with
 * its first value; neighbouring values usually share one.
 */
final class BucketCounts extends FacetCounter {
  private static final int MAX_BUCKETS = 20_000;

  private final String name;
  private final Field field;
  private final List<Interval> chosen;
  private final Rule rule;
  private final boolean empty;
  private final TreeMap<Long, Bucket> buckets = new TreeMap<>();
  private Bucket last;

  /** The bucket that a value belongs to. */
  private interface Rule {
    Interval of(long number);
  }

  private static final class Bucket {
    final Interval interval;
    final long from;

    /** The last number in it. */
    final long last;

    long count;
    int lastDoc = -1;

    Bucket(Interval interval, long from, long last) {
      this.interval = interval;
      this.from = from;
      this.last = last;
    }

    static Bucket of(Interval interval, Field field) {
      NumberRange range = NumberRange.of(field, interval.from(), true, interval.to(), false);
      return new Bucket(interval, range.from(), range.to());
    }
  }

  private BucketCounts(String name, Field field, List<Interval> chosen, boolean empty, Rule rule) {
    this.empty = empty;
    this.name = name;
    this.field = field;
    this.chosen = chosen;
    this.rule = rule;
    this.last = new Bucket(new Interval("", null, null), 1, 0);
  }

  static BucketCounts of(DateFacet request, Field field) {
    return new BucketCounts(
        request.name(),
        field,
        request.chosen(),
        request.empty(),
        number ->
            request
                .unit()
                .interval(
                    request.unit().floor(field.fromNumber(number), request.zone()),
                    field.type(),
                    request.zone()));
  }

  static BucketCounts of(HistogramFacet request, Field field) {
    long width = field.toNumber(request.width());
    if (width <= 0) {
      throw new QueryRefusedException("facet '" + request.name() + "': the width must be above 0");
    }
    return new BucketCounts(
        request.name(),
        field,
        request.chosen(),
        request.empty(),
        number -> interval(field, number, width));
  }

  /** At the limits of numbers, a bucket is open. */
  private static Interval interval(Field field, long number, long width) {
    long above = Math.floorMod(number, width);
    Object low = number < Long.MIN_VALUE + above ? null : field.fromNumber(number - above);
    Object high =
        number > Long.MAX_VALUE - (width - above)
            ? null
            : field.fromNumber(number + (width - above));
    return new Interval(plain(low) + ".." + plain(high), low, high);
  }

  private static String plain(@Nullable Object value) {
    return value == null
        ? ""
        : value instanceof BigDecimal decimal ? decimal.toPlainString() : value.toString();
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    buckets.values().forEach(bucket -> bucket.lastDoc = -1);
    ColumnScan scan = new ColumnScan(segment.column(field));
    ColumnScan.Dense dense = scan.dense(docs);
    if (dense != null) {
      for (int i = 0; i < dense.counts().length; i++) {
        if (dense.counts()[i] > 0) {
          bucket(dense.least() + i).count += dense.counts()[i];
        }
      }
      return;
    }
    scan.forEach(
        docs,
        (doc, values, from, end) -> {
          for (int i = from; i < end; i++) {
            Bucket bucket = bucket(values[i]);
            if (bucket.lastDoc != doc) {
              bucket.lastDoc = doc;
              bucket.count++;
            }
          }
        });
  }

  private Bucket bucket(long number) {
    if (number >= last.from && number <= last.last) {
      return last;
    }
    Map.Entry<Long, Bucket> near = buckets.floorEntry(number);
    if (near == null || number > near.getValue().last) {
      Interval interval = rule.of(number);
      Bucket made = Bucket.of(interval, field);
      put(made);
      last = made;
    } else {
      last = near.getValue();
    }
    return last;
  }

  private void put(Bucket made) {
    buckets.put(made.from, made);
    if (buckets.size() > MAX_BUCKETS) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d buckets; make them wider".formatted(name, MAX_BUCKETS));
    }
  }

  @Override
  public FacetPart part() {
    Map<Long, Long> all = new HashMap<>();
    buckets.forEach((from, bucket) -> all.put(from, bucket.count));
    return new FacetPart.Numbers(all);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Numbers) part).counts().forEach((from, count) -> bucket(from).count += count);
  }

  @Override
  public FacetResult result() {
    if (empty && !buckets.isEmpty()) {
      long end = buckets.lastEntry().getValue().last;
      for (Bucket at = buckets.firstEntry().getValue(); at.last < end; ) {
        at = bucket(at.last + 1);
      }
    }
    for (Interval interval : chosen) {
      Bucket one = Bucket.of(interval, field);
      if (one.from <= one.last) {
        buckets.putIfAbsent(one.from, one);
      }
    }
    List<FacetResult.Value> values = new ArrayList<>();
    for (Bucket bucket : buckets.values()) {
      boolean isChosen = chosen.contains(bucket.interval);
      if (bucket.count > 0 || empty || isChosen) {
        values.add(new FacetResult.Value(bucket.interval, bucket.count, isChosen));
      }
    }
    return new FacetResult(name, values, false);
  }
}
