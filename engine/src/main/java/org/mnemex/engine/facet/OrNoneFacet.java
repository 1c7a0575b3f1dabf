package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Adds a count of documents without a value to another facet.
 *
 * @param none the result's value for them, after all others
 * @param chosen whether it is chosen: results may then lack a value
 */
public record OrNoneFacet(FacetRequest values, String none, boolean chosen)
    implements FacetRequest {
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
    values.check(value, schema);
    FacetRequest.needFit(this, value, !(values instanceof StatisticsFacet), "missing values");
  }

  @Override
  public FacetCounter counter(Field value) {
    return new WithNone(this, value, values.counter(value));
  }

  @Override
  public Query choice() {
    Query some = values.choice();
    if (!chosen) {
      return some;
    }
    Query missing = new Query.Not(new Query.Exists(field()));
    if (some instanceof Query.Everything) {
      return missing;
    }
    return isTogether()
        ? new Query.AllOf(List.of(some, missing))
        : new Query.AnyOf(List.of(some, missing));
  }

  @Override
  public boolean isTogether() {
    return values.isTogether();
  }
}
