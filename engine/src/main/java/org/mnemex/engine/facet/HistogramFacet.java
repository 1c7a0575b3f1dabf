package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Counts numbers in intervals of equal width that begin at multiples of it, ascending.
 *
 * @param width above 0, in the field's own numbers
 * @param empty whether to include empty intervals between others
 */
public record HistogramFacet(
    String name, String field, Object width, List<Interval> chosen, boolean empty)
    implements FacetRequest {
  public HistogramFacet {
    chosen = List.copyOf(chosen);
  }

  /** Without empty intervals. */
  public HistogramFacet(String name, String field, Object width, List<Interval> chosen) {
    this(name, field, width, chosen, false);
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needUse(this, value);
    FacetRequest.needFit(this, value, value.type().isSummable(), "intervals");
  }

  @Override
  public FacetCounter counter(Field value) {
    return BucketCounts.of(this, value);
  }

  @Override
  public Query choice() {
    return Interval.choice(field, chosen);
  }
}
