package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * Lowest and highest value, sum and mean of a number.
 *
 * @param percentiles shares in percent, above 0 and up to 100, of which the nearest-rank percentile
 *     is told besides
 */
public record StatisticsFacet(String name, String field, List<Double> percentiles)
    implements FacetRequest {
  public StatisticsFacet {
    percentiles = List.copyOf(percentiles);
    if (!percentiles.stream().allMatch(share -> share > 0 && share <= 100)) {
      throw new QueryRefusedException("percentiles are above 0 and up to 100");
    }
  }

  /** Without percentiles. */
  public StatisticsFacet(String name, String field) {
    this(name, field, List.of());
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needUse(this, value);
    FacetRequest.needFit(
        this, value, value.type().isSummable() || value.type().isMoment(), "statistics");
  }

  @Override
  public FacetCounter counter(Field value) {
    return new StatisticsCounter(this, value);
  }

  @Override
  public Query choice() {
    return new Query.Everything();
  }
}
