package org.mnemex.engine.facet;

import java.time.ZoneId;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Area;

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
   * @param chosen values of which a result must have one, or all; empty: no choice
   * @param limit how many values to return at most, besides the chosen ones
   * @param given the order, if it is {@link Order#GIVEN}
   * @param search only values that have a word beginning so, without regard to case and accents;
   *     empty: all
   * @param together whether a result must have all that is chosen; then a count is that of results
   *     which have the value besides
   */
  record Values(
      String name,
      String field,
      List<Object> chosen,
      int limit,
      Order order,
      List<Object> given,
      String search,
      boolean together)
      implements FacetRequest {
    public Values {
      chosen = List.copyOf(chosen);
      given = List.copyOf(given);
    }

    /** All values, in an order that needs no list. */
    public Values(String name, String field, List<Object> chosen, int limit, Order order) {
      this(name, field, chosen, limit, order, List.of(), "", false);
    }

    /** The same with something else chosen. */
    public Values choosing(List<Object> other) {
      return new Values(name, field, other, limit, order, given, search, together);
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
   * Counts dates or instants by calendar unit, oldest first.
   *
   * @param zone where a day of an instant begins; of no account for dates
   * @param chosen buckets of which a result must be in one, see {@link DateUnit#interval}
   * @param empty whether buckets between others are told, too, if nothing is in them
   */
  record Dates(
      String name, String field, DateUnit unit, ZoneId zone, List<Interval> chosen, boolean empty)
      implements FacetRequest {
    public Dates {
      chosen = List.copyOf(chosen);
    }

    /** Without empty buckets. */
    public Dates(String name, String field, DateUnit unit, ZoneId zone, List<Interval> chosen) {
      this(name, field, unit, zone, chosen, false);
    }
  }

  /**
   * Counts numbers in intervals of equal width that begin at multiples of it, ascending.
   *
   * @param width above 0, in the field's own numbers
   * @param empty whether intervals between others are told, too, if nothing is in them
   */
  record Histogram(String name, String field, Object width, List<Interval> chosen, boolean empty)
      implements FacetRequest {
    public Histogram {
      chosen = List.copyOf(chosen);
    }

    /** Without empty intervals. */
    public Histogram(String name, String field, Object width, List<Interval> chosen) {
      this(name, field, width, chosen, false);
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

  /**
   * Counts places by square of a web map, most frequent first.
   *
   * @param zoom of the squares, see {@link Area.Tile}
   * @param chosen squares in one of which a result must lie, of any zoom
   * @param limit how many squares to return at most, besides the chosen ones
   */
  record Cells(String name, String field, int zoom, List<Area.Tile> chosen, int limit)
      implements FacetRequest {
    public Cells {
      chosen = List.copyOf(chosen);
      if (zoom < 0 || zoom > Area.Tile.MAX_ZOOM) {
        throw new QueryRefusedException(
            "facet '%s': the zoom is 0 to %d".formatted(name, Area.Tile.MAX_ZOOM));
      }
    }
  }

  /**
   * Least, greatest, sum and mean of a number's values.
   *
   * @param percentiles shares in percent, above 0 and up to 100, of which the nearest-rank
   *     percentile is told besides
   */
  record Statistics(String name, String field, List<Double> percentiles) implements FacetRequest {
    public Statistics {
      percentiles = List.copyOf(percentiles);
      if (!percentiles.stream().allMatch(share -> share > 0 && share <= 100)) {
        throw new QueryRefusedException("percentiles are above 0 and up to 100");
      }
    }

    /** Without percentiles. */
    public Statistics(String name, String field) {
      this(name, field, List.of());
    }
  }

  /**
   * Counts the values of a field of child rows.
   *
   * @param values what is counted, of the child field
   * @param rows whether rows are counted instead of documents
   */
  record Children(Values values, boolean rows) implements FacetRequest {
    @Override
    public String name() {
      return values.name();
    }

    @Override
    public String field() {
      return values.field();
    }
  }

  /**
   * Counts what another request counts, and the documents without any value.
   *
   * @param none what stands in the result for having no value, behind all others
   * @param chosen whether that is chosen: a result may then also be without a value
   */
  record OrNone(FacetRequest values, String none, boolean chosen) implements FacetRequest {
    @Override
    public String name() {
      return values.name();
    }

    @Override
    public String field() {
      return values.field();
    }
  }

  /**
   * Counts a second facet for each value that is shown of a first one.
   *
   * @param inner counted within each; what is chosen in it does not narrow anything
   */
  record Split(Values values, FacetRequest inner) implements FacetRequest {
    /** Most values of the first facet. */
    public static final int MAX_VALUES = 100;

    public Split {
      if (values.limit() > MAX_VALUES) {
        throw new QueryRefusedException(
            "facet '%s' shows more than %d values, which is too many to split each"
                .formatted(values.name(), MAX_VALUES));
      }
    }

    @Override
    public String name() {
      return values.name();
    }

    @Override
    public String field() {
      return values.field();
    }
  }

  /**
   * From a value, included, to another, not included; null leaves a side open.
   *
   * @param text how it was written: {@code 30..100}
   */
  record Interval(String text, @Nullable Object from, @Nullable Object to) {}
}
