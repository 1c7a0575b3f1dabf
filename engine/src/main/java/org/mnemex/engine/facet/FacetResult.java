package org.mnemex.engine.facet;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A counted facet.
 *
 * @param name as in the request
 * @param values the counts; chosen values are included even with a count of 0
 * @param more whether there are values beyond the limit
 * @param statistics of {@link StatisticsFacet} only; null if no document has a value
 */
public record FacetResult(
    String name, List<Value> values, boolean more, @Nullable Summary statistics) {

  /** Counts without statistics. */
  public FacetResult(String name, List<Value> values, boolean more) {
    this(name, values, more, null);
  }

  /**
   * One count.
   *
   * @param value the value, or the {@link Interval} of a range
   * @param count documents that have it
   * @param split the counts of another facet within it; null if none were asked for
   */
  public record Value(Object value, long count, boolean chosen, @Nullable FacetResult split) {
    /** Without another facet within it. */
    public Value(Object value, long count, boolean chosen) {
      this(value, count, chosen, null);
    }
  }

  /**
   * Statistics of a number's values.
   *
   * @param count how many values there are; a document may have several
   * @param least in the class of the field's values, like the greatest
   * @param sum null for dates and instants
   * @param mean null for dates and instants
   * @param percentiles values by the shares that were asked for
   */
  public record Summary(
      long count,
      Object least,
      Object greatest,
      @Nullable Number sum,
      @Nullable Double mean,
      Map<Double, Object> percentiles) {}
}
