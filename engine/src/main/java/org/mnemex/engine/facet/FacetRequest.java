package org.mnemex.engine.facet;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A facet that is to be counted, and what is chosen in it. */
public sealed interface FacetRequest {
  /** Its name in the result. */
  String name();

  /** The field whose values are counted. */
  String field();

  /** Order of values in a result. */
  enum Order {
    /** Most frequent first; equal ones by value. */
    COUNT,
    /** By value: numbers and dates ascending, texts alphabetically without regard to case. */
    VALUE
  }

  /**
   * Counts by value.
   *
   * @param chosen values of which a result must have one; empty: no choice
   * @param limit how many values to return at most, besides the chosen ones
   */
  record Values(String name, String field, List<Object> chosen, int limit, Order order)
      implements FacetRequest {
    public Values {
      chosen = List.copyOf(chosen);
    }
  }

  /**
   * Counts by range, in the order given.
   *
   * @param chosen ranges of which a result must be in one; they need not be among {@code ranges}
   */
  record Ranges(String name, String field, List<Interval> ranges, List<Interval> chosen)
      implements FacetRequest {
    public Ranges {
      ranges = List.copyOf(ranges);
      chosen = List.copyOf(chosen);
    }
  }

  /**
   * From a value, included, to another, not included; null leaves a side open.
   *
   * @param text how it was written: {@code 30..100}
   */
  record Interval(String text, @Nullable Object from, @Nullable Object to) {}
}
