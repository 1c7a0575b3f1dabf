package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.Budget;
import org.mnemex.engine.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;

/** Counts one facet over the segments of an edition, one after another. */
public abstract class FacetCounter {
  /** More values are not put in order by anything but count. */
  static final int MAX_VALUES = 1_000_000;

  /** What it may use. */
  Budget budget = Budget.none();

  /** A counter that has counted nothing. */
  public static FacetCounter of(FacetRequest request, Schema schema, Budget budget) {
    FacetCounter counter = of(request, check(request, schema));
    counter.budget = budget;
    return counter;
  }

  private static FacetCounter of(FacetRequest request, Field field) {
    return switch (request) {
      case FacetRequest.Values values ->
          !field.type().isOrdinal()
              ? new NumberValues(values, field)
              : field.fold() ? new FoldedValues(values, field) : new TextValues(values, field);
      case FacetRequest.Ranges ranges -> new RangeCounts(ranges, field);
      case FacetRequest.Dates dates -> BucketCounts.of(dates, field);
      case FacetRequest.Histogram histogram -> BucketCounts.of(histogram, field);
      case FacetRequest.Paths paths -> new PathCounts(paths, field);
      case FacetRequest.Statistics statistics -> new StatisticsCounter(statistics, field);
    };
  }

  /** Counts the documents of a segment. */
  public abstract void count(SegmentReader segment, DocBits docs);

  /** The counts of everything counted. */
  public abstract FacetResult result();

  private static Field check(FacetRequest request, Schema schema) {
    Field field = schema.field(request.field());
    if (!field.uses().contains(Use.FACET)
        || !field.hasColumn()
        || field.isChild()
        || field.type() == FieldType.PLACE) {
      throw new QueryRefusedException(
          "field '%s' of facet '%s' has not the use 'facet', or is no value, number or date"
              .formatted(field.name(), request.name()));
    }
    boolean fits =
        switch (request) {
          case FacetRequest.Values v -> true;
          case FacetRequest.Ranges r -> field.type().isNumeric();
          case FacetRequest.Dates d ->
              field.type() == FieldType.DATE || field.type() == FieldType.INSTANT;
          case FacetRequest.Histogram h ->
              field.type() == FieldType.INTEGER || field.type() == FieldType.DECIMAL;
          case FacetRequest.Paths p -> field.type() == FieldType.PATH;
          case FacetRequest.Statistics s ->
              field.type().isNumeric() && field.type() != FieldType.BOOLEAN;
        };
    if (!fits) {
      throw new QueryRefusedException(
          "facet '%s' cannot count %s of field '%s', which is of type %s"
              .formatted(
                  request.name(),
                  request.getClass().getSimpleName().toLowerCase(java.util.Locale.ROOT),
                  field.name(),
                  field.type().word()));
    }
    return field;
  }

  /** What results must match because of what is chosen in a facet. */
  public static Query choice(FacetRequest facet) {
    return switch (facet) {
      case FacetRequest.Values values -> values(values.field(), values.chosen());
      case FacetRequest.Paths paths -> values(paths.field(), paths.chosen());
      case FacetRequest.Ranges ranges -> intervals(ranges.field(), ranges.chosen());
      case FacetRequest.Dates dates -> intervals(dates.field(), dates.chosen());
      case FacetRequest.Histogram histogram -> intervals(histogram.field(), histogram.chosen());
      case FacetRequest.Statistics s -> new Query.Everything();
    };
  }

  private static Query values(String field, List<Object> chosen) {
    return chosen.isEmpty() ? new Query.Everything() : new Query.OneOf(field, chosen);
  }

  private static Query intervals(String field, List<FacetRequest.Interval> chosen) {
    if (chosen.isEmpty()) {
      return new Query.Everything();
    }
    return new Query.AnyOf(
        chosen.stream()
            .<Query>map(
                interval -> new Query.Range(field, interval.from(), true, interval.to(), false))
            .toList());
  }
}
