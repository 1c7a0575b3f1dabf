package org.mnemex.engine.facet;

import java.time.ZoneId;
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
    VALUE,
    /** By value, with numbers within texts taken as numbers: {@code 9 cm} before {@code 10 cm}. */
    NATURAL,
    /** As the request lists them; what it does not list comes behind, most frequent first. */
    GIVEN
  }

  /**
   * Counts by value.
   *
   * @param chosen values of which a result must have one; empty: no choice
   * @param limit how many values to return at most, besides the chosen ones
   * @param given the order, if it is {@link Order#GIVEN}
   * @param search only values that have a word beginning so, without regard to case and accents;
   *     empty: all
   */
  record Values(
      String name,
      String field,
      List<Object> chosen,
      int limit,
      Order order,
      List<Object> given,
      String search)
      implements FacetRequest {
    public Values {
      chosen = List.copyOf(chosen);
      given = List.copyOf(given);
    }

    /** All values, in an order that needs no list. */
    public Values(String name, String field, List<Object> chosen, int limit, Order order) {
      this(name, field, chosen, limit, order, List.of(), "");
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
   * Counts dates or instants by calendar unit, oldest first; empty buckets are left out.
   *
   * @param zone where a day of an instant begins; of no account for dates
   * @param chosen buckets of which a result must be in one, see {@link DateUnit#interval}
   */
  record Dates(String name, String field, DateUnit unit, ZoneId zone, List<Interval> chosen)
      implements FacetRequest {
    public Dates {
      chosen = List.copyOf(chosen);
    }
  }

  /**
   * Counts numbers in intervals of equal width that begin at multiples of it, ascending; empty ones
   * are left out.
   *
   * @param width above 0, in the field's own numbers
   */
  record Histogram(String name, String field, Object width, List<Interval> chosen)
      implements FacetRequest {
    public Histogram {
      chosen = List.copyOf(chosen);
    }
  }

  /**
   * Counts paths one level below another path.
   *
   * @param under the path whose children are counted; empty: the first level
   * @param chosen paths in which a result must lie
   */
  record Paths(String name, String field, String under, List<Object> chosen, int limit)
      implements FacetRequest {
    public Paths {
      chosen = List.copyOf(chosen);
    }
  }

  /** Least, greatest, sum and mean of a number's values. */
  record Statistics(String name, String field) implements FacetRequest {}

  /**
   * From a value, included, to another, not included; null leaves a side open.
   *
   * @param text how it was written: {@code 30..100}
   */
  record Interval(String text, @Nullable Object from, @Nullable Object to) {}
}
