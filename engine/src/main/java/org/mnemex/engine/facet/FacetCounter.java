package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
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
    counter.within(budget);
    return counter;
  }

  /** Sets what it may use. */
  void within(Budget all) {
    budget = all;
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
      case FacetRequest.Cells cells -> new CellCounts(cells, field);
      case FacetRequest.Children children -> new ChildValues(children, field);
      case FacetRequest.OrNone orNone -> new WithNone(orNone, field, of(orNone.values(), field));
      case FacetRequest.Split split -> of(split.values(), field);
    };
  }

  /** Counts the documents of a segment. */
  public abstract void count(SegmentReader segment, DocBits docs);

  /** The counts of everything counted. */
  public abstract FacetResult result();

  private static Field check(FacetRequest request, Schema schema) {
    Field field = schema.field(request.field());
    boolean child = request instanceof FacetRequest.Children;
    boolean place =
        request instanceof FacetRequest.Cells
            || request instanceof FacetRequest.OrNone orNone
                && orNone.values() instanceof FacetRequest.Cells;
    if (child != field.isChild()
        || place != (field.type() == FieldType.PLACE)
        || !child && !place && !field.uses().contains(Use.FACET)
        || !field.hasColumn()) {
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
          case FacetRequest.Cells c -> true;
          case FacetRequest.Children c -> true;
          case FacetRequest.OrNone orNone -> {
            check(orNone.values(), schema);
            yield !(orNone.values() instanceof FacetRequest.Statistics);
          }
          case FacetRequest.Split split -> {
            check(split.inner(), schema);
            yield !(split.inner() instanceof FacetRequest.Split);
          }
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
      case FacetRequest.Values values -> values(values);
      case FacetRequest.Paths paths -> values(paths.field(), paths.chosen());
      case FacetRequest.Ranges ranges -> intervals(ranges.field(), ranges.chosen());
      case FacetRequest.Dates dates -> intervals(dates.field(), dates.chosen());
      case FacetRequest.Histogram histogram -> intervals(histogram.field(), histogram.chosen());
      case FacetRequest.Statistics s -> new Query.Everything();
      case FacetRequest.Cells cells -> cells(cells);
      case FacetRequest.Children children -> children(children.values());
      case FacetRequest.OrNone orNone -> orNone(orNone);
      case FacetRequest.Split split -> values(split.values());
    };
  }

  /** Whether what is chosen in a facet narrows its own counts, too. */
  public static boolean isTogether(FacetRequest facet) {
    return switch (facet) {
      case FacetRequest.Values values -> values.together();
      case FacetRequest.Children children -> children.values().together();
      case FacetRequest.OrNone orNone -> isTogether(orNone.values());
      case FacetRequest.Split split -> split.values().together();
      default -> false;
    };
  }

  private static Query values(FacetRequest.Values values) {
    return values.together() && !values.chosen().isEmpty()
        ? new Query.AllOf(
            values.chosen().stream().map(value -> values(values.field(), List.of(value))).toList())
        : values(values.field(), values.chosen());
  }

  private static Query cells(FacetRequest.Cells cells) {
    return cells.chosen().isEmpty()
        ? new Query.Everything()
        : new Query.AnyOf(
            cells.chosen().stream()
                .<Query>map(tile -> new Query.Within(cells.field(), tile))
                .toList());
  }

  /** Each of what is chosen together may be in a row of its own. */
  private static Query children(FacetRequest.Values values) {
    if (values.chosen().isEmpty()) {
      return new Query.Everything();
    }
    String group = values.field().substring(0, values.field().indexOf('.'));
    return values.together()
        ? new Query.AllOf(
            values.chosen().stream()
                .<Query>map(value -> new Query.Group(group, values(values.field(), List.of(value))))
                .toList())
        : new Query.Group(group, values(values.field(), values.chosen()));
  }

  private static Query orNone(FacetRequest.OrNone orNone) {
    Query chosen = choice(orNone.values());
    if (!orNone.chosen()) {
      return chosen;
    }
    Query none = new Query.Not(new Query.Exists(orNone.field()));
    return chosen instanceof Query.Everything
        ? none
        : isTogether(orNone.values())
            ? new Query.AllOf(List.of(chosen, none))
            : new Query.AnyOf(List.of(chosen, none));
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
