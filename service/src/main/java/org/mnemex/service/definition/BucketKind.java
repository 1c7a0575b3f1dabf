package org.mnemex.service.definition;

import java.time.DateTimeException;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import org.mnemex.engine.facet.DateFacet;
import org.mnemex.engine.facet.DateUnit;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.HistogramFacet;
import org.mnemex.engine.schema.Field;

/**
 * Counts by unit of the calendar, or by intervals of equal width.
 *
 * @param every a unit or a width
 * @param zone where a day begins
 * @param empty whether to include empty buckets between others
 */
public record BucketKind(String every, ZoneId zone, boolean empty) implements FacetKind {
  static BucketKind read(YamlMap facet) {
    String zone = facet.textOr("zone", null);
    try {
      return new BucketKind(
          facet.text("every"),
          zone == null ? ZoneOffset.UTC : ZoneId.of(zone),
          facet.booleanOr("empty", false));
    } catch (DateTimeException e) {
      throw facet.problem("zone", "there is no time zone '" + zone + "'", null);
    }
  }

  @Override
  public String key() {
    return "every";
  }

  @Override
  public String kind() {
    return "buckets";
  }

  @Override
  public FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    if (field.type().isMoment()) {
      DateUnit unit = unit();
      return new DateFacet(
          defined.name(),
          defined.field(),
          unit,
          zone,
          chosen.stream().map(text -> unit.interval(text, field.type(), zone)).toList(),
          empty);
    }
    if (!field.type().isSummable()) {
      throw new IllegalArgumentException(
          "field '%s' (%s) has no buckets; 'every' is for dates and numbers"
              .formatted(field.name(), field.type().word()));
    }
    return new HistogramFacet(
        defined.name(),
        defined.field(),
        FacetValues.value(every, field),
        chosen.stream().map(text -> FacetValues.interval(text, field)).toList(),
        empty);
  }

  private DateUnit unit() {
    for (DateUnit unit : DateUnit.values()) {
      if (unit.word().equals(every)) {
        return unit;
      }
    }
    throw new IllegalArgumentException(
        "'%s' is not a unit of the calendar; use year, quarter, month, week, day or hour"
            .formatted(every));
  }
}
