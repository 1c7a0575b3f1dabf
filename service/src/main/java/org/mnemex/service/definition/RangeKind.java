package org.mnemex.service.definition;

import java.util.List;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.RangeFacet;
import org.mnemex.engine.schema.Field;

/**
 * Counts by range.
 *
 * @param ranges as they are written, {@code 30..100}
 */
public record RangeKind(List<String> ranges) implements FacetKind {
  static RangeKind read(YamlMap facet) {
    return new RangeKind(facet.texts("ranges"));
  }

  @Override
  public String key() {
    return "ranges";
  }

  @Override
  public String kind() {
    return "ranges";
  }

  @Override
  public FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    if (!field.type().isNumeric()) {
      throw new IllegalArgumentException(
          "field '%s' is not a number or a date, so it has no ranges".formatted(field.name()));
    }
    return new RangeFacet(
        defined.name(),
        defined.field(),
        ranges.stream().map(text -> FacetValues.interval(text, field)).toList(),
        chosen.stream().map(text -> FacetValues.interval(text, field)).toList());
  }
}
