package org.mnemex.engine.facet;

import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Counts a second facet for each value that is shown of a first one.
 *
 * @param inner counted within each; its choices do not narrow anything
 */
public record SplitFacet(ValueFacet values, FacetRequest inner) implements FacetRequest {
  /** The maximum of values of the first facet. */
  public static final int MAX_VALUES = 100;

  public SplitFacet {
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

  @Override
  public void check(Field value, Schema schema) {
    values.check(value, schema);
    inner.check(schema.field(inner.field()), schema);
    FacetRequest.needFit(this, value, !(inner instanceof SplitFacet), "a facet that is split");
  }

  /** Counts the outer values; inner values are counted once these are known. */
  @Override
  public FacetCounter counter(Field value) {
    return values.counter(value);
  }

  @Override
  public Query choice() {
    return values.choice();
  }

  @Override
  public boolean isTogether() {
    return values.isTogether();
  }
}
