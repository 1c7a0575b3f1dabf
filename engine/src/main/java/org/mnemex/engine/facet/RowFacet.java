package org.mnemex.engine.facet;

import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Counts the values of a field of child rows.
 *
 * @param values what is counted, of the child field
 * @param rows whether rows are counted instead of documents
 */
public record RowFacet(ValueFacet values, boolean rows) implements FacetRequest {
  @Override
  public String name() {
    return values.name();
  }

  @Override
  public String field() {
    return values.field();
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needFit(this, value, value.isChild() && value.hasColumn(), "rows");
  }

  @Override
  public FacetCounter counter(Field value) {
    return new ChildValues(this, value);
  }

  /** Each of the combined choices may be met by a different row. */
  @Override
  public Query choice() {
    Query chosen = values.choice();
    String group = field().substring(0, field().indexOf('.'));
    return switch (chosen) {
      case Query.Everything all -> all;
      case Query.AllOf all ->
          new Query.AllOf(
              all.clauses().stream().<Query>map(one -> new Query.Group(group, one)).toList());
      default -> new Query.Group(group, chosen);
    };
  }

  @Override
  public boolean isTogether() {
    return values.isTogether();
  }
}
