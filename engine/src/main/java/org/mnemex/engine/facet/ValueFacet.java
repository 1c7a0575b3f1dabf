package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Counts by value.
 *
 * @param chosen chosen values; a result must have one of them, or all; empty: no choice
 * @param limit the maximum number of values in the result, in addition to chosen ones
 * @param given the order, if it is {@link FacetOrder#GIVEN}
 * @param search only values that have a word beginning so, without regard to case and accents;
 *     empty: all
 * @param together whether a result must have all that is chosen; then a count is that of results
 *     which have the value besides
 */
public record ValueFacet(
    String name,
    String field,
    List<Object> chosen,
    int limit,
    FacetOrder order,
    List<Object> given,
    String search,
    boolean together)
    implements FacetRequest {
  public ValueFacet {
    chosen = List.copyOf(chosen);
    given = List.copyOf(given);
  }

  /** All values, in an order that needs no list. */
  public ValueFacet(String name, String field, List<Object> chosen, int limit, FacetOrder order) {
    this(name, field, chosen, limit, order, List.of(), "", false);
  }

  /** The same with something else chosen. */
  public ValueFacet choosing(List<Object> other) {
    return new ValueFacet(name, field, other, limit, order, given, search, together);
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needUse(this, value);
  }

  @Override
  public FacetCounter counter(Field value) {
    return !value.type().isOrdinal()
        ? new NumberValues(this, value)
        : value.fold() ? new FoldedValues(this, value) : new TextValues(this, value);
  }

  /** All of the combined choices are required. */
  @Override
  public Query choice() {
    return together && !chosen.isEmpty()
        ? new Query.AllOf(
            chosen.stream().<Query>map(value -> new Query.OneOf(field, List.of(value))).toList())
        : FacetRequest.oneOf(field, chosen);
  }

  @Override
  public boolean isTogether() {
    return together;
  }
}
