package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.StatisticsFacet;
import org.mnemex.engine.schema.Field;

/**
 * Lowest and highest value, sum and mean instead of counts.
 *
 * @param percentiles percentages whose percentiles are computed as well
 */
public record StatisticsKind(List<Double> percentiles) implements FacetKind {
  private static final int MAX_PERCENTILES = 20;

  static StatisticsKind read(YamlMap facet) {
    if (!facet.booleanOr("statistics", true)) {
      throw facet.problem("statistics", "leave this key out for counts", null);
    }
    List<Double> percentiles = new ArrayList<>();
    for (String text : facet.texts("percentiles")) {
      try {
        double share = Double.parseDouble(text);
        if (share > 0 && share <= 100 && percentiles.size() < MAX_PERCENTILES) {
          percentiles.add(share);
          continue;
        }
      } catch (NumberFormatException e) {
        // Said below.
      }
      throw facet.problem(
          "percentiles",
          "expected at most %d numbers above 0 and at most 100".formatted(MAX_PERCENTILES),
          null);
    }
    return new StatisticsKind(percentiles);
  }

  @Override
  public String key() {
    return "statistics";
  }

  @Override
  public String kind() {
    return "statistics";
  }

  @Override
  public boolean hasCounts() {
    return false;
  }

  @Override
  public FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    return new StatisticsFacet(defined.name(), defined.field(), percentiles);
  }
}
