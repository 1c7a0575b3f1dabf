package org.mnemex.engine.facet;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;

/** Computes lowest and highest value, sum and mean; the sum is exact. */
final class StatisticsCounter extends FacetCounter {
  private final StatisticsFacet request;
  private final Field field;
  private long count;
  private long least = Long.MAX_VALUE;
  private long greatest = Long.MIN_VALUE;
  private long sum;

  /** All values, if percentiles are asked for. */
  private long[] kept = {};

  private BigInteger overflowed = BigInteger.ZERO;

  StatisticsCounter(StatisticsFacet request, Field field) {
    this.request = request;
    this.field = field;
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    new ColumnScan(segment.column(field))
        .forEach(
            docs,
            (doc, values, from, end) -> {
              for (int i = from; i < end; i++) {
                add(values[i]);
              }
            });
  }

  private void add(long value) {
    if (!request.percentiles().isEmpty()) {
      keep(value);
    }
    count++;
    least = Math.min(least, value);
    greatest = Math.max(greatest, value);
    long next = sum + value;
    if (((sum ^ next) & (value ^ next)) < 0) {
      overflowed = overflowed.add(BigInteger.valueOf(sum));
      next = value;
    }
    sum = next;
  }

  private void keep(long value) {
    if (kept.length == (int) count) {
      lengthen(Math.max(1024, 2 * kept.length));
    }
    kept[(int) count] = value;
  }

  private void lengthen(int length) {
    budget.take(8L * (length - kept.length));
    kept = Arrays.copyOf(kept, length);
  }

  @Override
  public void add(FacetCounter other) {
    StatisticsCounter theirs = (StatisticsCounter) other;
    if (!request.percentiles().isEmpty()) {
      int all = Math.toIntExact(count + theirs.count);
      lengthen(Math.max(kept.length, all));
      System.arraycopy(theirs.kept, 0, kept, (int) count, (int) theirs.count);
    }
    add(theirs.summary(List.of()));
  }

  @Override
  public FacetPart part() {
    return summary(
        request.percentiles().isEmpty()
            ? List.of()
            : Arrays.stream(kept, 0, (int) count).boxed().toList());
  }

  private FacetPart.Summary summary(List<Long> values) {
    return new FacetPart.Summary(
        count, least, greatest, overflowed.add(BigInteger.valueOf(sum)), values);
  }

  @Override
  public void add(FacetPart part) {
    FacetPart.Summary theirs = (FacetPart.Summary) part;
    if (!theirs.kept().isEmpty()) {
      lengthen(Math.max(kept.length, Math.toIntExact(count + theirs.count())));
      int at = (int) count;
      for (long value : theirs.kept()) {
        kept[at++] = value;
      }
    }
    count += theirs.count();
    least = Math.min(least, theirs.least());
    greatest = Math.max(greatest, theirs.greatest());
    overflowed = overflowed.add(theirs.sum());
  }

  /** Nearest rank: the lowest value that is not below the given percentage of values. */
  private Map<Double, Object> percentiles() {
    Map<Double, Object> percentiles = new LinkedHashMap<>();
    if (!request.percentiles().isEmpty()) {
      Arrays.sort(kept, 0, (int) count);
      for (double share : request.percentiles()) {
        int rank = (int) Math.ceil(share / 100 * count);
        percentiles.put(share, field.fromNumber(kept[Math.max(1, rank) - 1]));
      }
    }
    return percentiles;
  }

  @Override
  public FacetResult result() {
    if (count == 0) {
      return new FacetResult(request.name(), List.of(), false, null);
    }
    BigDecimal total = new BigDecimal(overflowed.add(BigInteger.valueOf(sum)), field.scale());
    boolean adds = field.type().isSummable();
    return new FacetResult(
        request.name(),
        List.of(),
        false,
        new FacetResult.Summary(
            count,
            field.fromNumber(least),
            field.fromNumber(greatest),
            adds ? total : null,
            adds ? total.doubleValue() / count : null,
            percentiles()));
  }
}
