package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Counts by range, in the order given.
 *
 * @param chosen chosen ranges; a result must be in one; they need not be among {@code ranges}
 */
public record RangeFacet(String name, String field, List<Interval> ranges, List<Interval> chosen)
    implements FacetRequest {
  public RangeFacet {
    ranges = List.copyOf(ranges);
    chosen = List.copyOf(chosen);
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needUse(this, value);
    FacetRequest.needFit(this, value, value.type().isNumeric(), "ranges");
  }

  @Override
  public FacetCounter counter(Field value) {
    return new RangeCounts(this, value);
  }

  @Override
  public Query choice() {
    return Interval.choice(field, chosen);
  }
}
