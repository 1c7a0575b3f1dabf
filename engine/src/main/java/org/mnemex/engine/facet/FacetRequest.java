package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;

/**
 * A facet to count, with its choices. Each kind of facet is one class: which fields it accepts, how
 * it counts them, and how choices narrow results.
 */
public sealed interface FacetRequest
    permits ValueFacet,
        RangeFacet,
        DateFacet,
        HistogramFacet,
        PathFacet,
        CellFacet,
        StatisticsFacet,
        RowFacet,
        OrNoneFacet,
        SplitFacet {
  /** Its name in the result. */
  String name();

  /** The field whose values are counted. */
  String field();

  /**
   * Checks that the field can be counted so.
   *
   * @throws QueryRefusedException if not
   */
  void check(Field field, Schema schema);

  /** A new counter. */
  FacetCounter counter(Field field);

  /** The condition of the choices on results. */
  Query choice();

  /** Whether choices narrow the facet's own counts, too. */
  default boolean isTogether() {
    return false;
  }

  /** A field outside a group needs the use 'facet'. */
  static void needUse(FacetRequest request, Field field) {
    boolean whole = !field.isChild() && field.type() != FieldType.PLACE;
    if (!whole || !field.uses().contains(Use.FACET) || !field.hasColumn()) {
      throw new QueryRefusedException(
          "field '%s' of facet '%s' does not have the use 'facet', or is not a value, number or date"
              .formatted(field.name(), request.name()));
    }
  }

  /**
   * Refuses a field whose type a facet cannot count.
   *
   * @param what is counted
   */
  static void needFit(FacetRequest request, Field field, boolean fits, String what) {
    if (!fits) {
      throw new QueryRefusedException(
          "facet '%s' cannot count %s of field '%s', which is of type %s"
              .formatted(request.name(), what, field.name(), field.type().word()));
    }
  }

  /** The condition of chosen values on results. */
  static Query oneOf(String field, List<Object> chosen) {
    return chosen.isEmpty() ? new Query.Everything() : new Query.OneOf(field, chosen);
  }
}
