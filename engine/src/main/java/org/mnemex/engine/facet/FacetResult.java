package org.mnemex.engine.facet;

import java.util.List;

/**
 * A counted facet.
 *
 * @param name as in the request
 * @param values counts; chosen values are there even with a count of 0
 * @param more whether there are values beyond the limit
 */
public record FacetResult(String name, List<Value> values, boolean more) {
  /**
   * One count.
   *
   * @param value the value, or the {@link FacetRequest.Interval} of a range
   * @param count documents that have it
   */
  public record Value(Object value, long count, boolean chosen) {}
}
