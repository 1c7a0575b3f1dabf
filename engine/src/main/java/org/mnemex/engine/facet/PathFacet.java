package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;

/**
 * Counts paths one level below another path.
 *
 * @param under the path whose children are counted; empty: the first level
 * @param chosen chosen paths; a result must be below one
 */
public record PathFacet(String name, String field, String under, List<Object> chosen, int limit)
    implements FacetRequest {
  public PathFacet {
    chosen = List.copyOf(chosen);
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needUse(this, value);
    FacetRequest.needFit(this, value, value.type() == FieldType.PATH, "paths");
  }

  @Override
  public FacetCounter counter(Field value) {
    return new PathCounts(this, value);
  }

  @Override
  public Query choice() {
    return FacetRequest.oneOf(field, chosen);
  }
}
