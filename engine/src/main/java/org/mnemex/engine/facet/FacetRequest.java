package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;

/**
 * A facet that is to be counted, and what is chosen in it. Each kind of facet is one class: it says
 * which fields it is for, how they are counted, and what a choice asks of results.
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

  /** A counter that has counted nothing. */
  FacetCounter counter(Field field);

  /** What results must match because of what is chosen. */
  Query choice();

  /** Whether what is chosen narrows the facet's own counts, too. */
  default boolean isTogether() {
    return false;
  }

  /** A field that is no child of a group needs the use 'facet'. */
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

  /** What results must match if some values of a field are chosen. */
  static Query oneOf(String field, List<Object> chosen) {
    return chosen.isEmpty() ? new Query.Everything() : new Query.OneOf(field, chosen);
  }
}
