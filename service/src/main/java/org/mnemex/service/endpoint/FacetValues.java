package org.mnemex.service.endpoint;

import java.time.LocalDate;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.DateUnit;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Numbers;
import org.mnemex.service.definition.EndpointDefinition;

/** Values and ranges of facets as they are written in definitions and parameters. */
public final class FacetValues {
  private FacetValues() {}

  /**
   * A value of a field.
   *
   * @throws IllegalArgumentException with a sentence, if it is none
   */
  public static Object value(String text, Field field) {
    try {
      return switch (field.type()) {
        case TEXT, EXACT, PATH -> text;
        case INTEGER -> Long.valueOf(text);
        case DECIMAL -> Numbers.parse(text);
        case DATE -> LocalDate.parse(text);
        case INSTANT -> OffsetDateTime.parse(text).toInstant();
        case BOOLEAN ->
            switch (text) {
              case "true" -> true;
              case "false" -> false;
              default -> throw new NumberFormatException(text);
            };
        case PLACE, GROUP -> throw new NumberFormatException(text);
      };
    } catch (NumberFormatException | DateTimeParseException e) {
      throw new IllegalArgumentException(
          "'%s' is no value of field '%s' (%s)".formatted(text, field.name(), field.type().word()),
          e);
    }
  }

  /**
   * A facet as a request to the engine.
   *
   * @param chosen what is chosen in it, as it was written
   * @throws IllegalArgumentException with a sentence, if a value is none
   * @throws org.mnemex.engine.error.QueryRefusedException if a bucket is none
   */
  static FacetRequest request(EndpointDefinition.Facet defined, Field field, List<String> chosen) {
    return request(defined, field, chosen, "");
  }

  /**
   * A facet as a request to the engine, of whose values only some are asked for.
   *
   * @param search only values that have a word beginning so
   */
  static FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    String none = defined.none();
    if (none == null || !search.isEmpty()) {
      return counted(defined, field, chosen, search);
    }
    List<String> values = chosen.stream().filter(value -> !value.equals(none)).toList();
    return new FacetRequest.OrNone(
        counted(defined, field, values, search), none, values.size() < chosen.size());
  }

  private static FacetRequest counted(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    if (defined.rows() && !field.isChild()) {
      throw new IllegalArgumentException(
          "field '%s' is no field of a group, so it has no rows".formatted(field.name()));
    }
    String every = defined.every();
    if ((defined.cells() >= 0) != (field.type() == FieldType.PLACE)) {
      throw new IllegalArgumentException(
          "'cells' is for places, and places are counted by it; field '%s' is of type %s"
              .formatted(field.name(), field.type().word()));
    }
    if (defined.cells() >= 0) {
      return new FacetRequest.Cells(
          defined.name(),
          defined.field(),
          defined.cells(),
          chosen.stream().map(Area.Tile::parse).toList(),
          defined.limit());
    }
    if (defined.statistics()) {
      return new FacetRequest.Statistics(defined.name(), defined.field(), defined.percentiles());
    }
    if (every != null && (field.type() == FieldType.DATE || field.type() == FieldType.INSTANT)) {
      DateUnit unit = unit(every);
      return new FacetRequest.Dates(
          defined.name(),
          defined.field(),
          unit,
          defined.zone(),
          chosen.stream().map(text -> unit.interval(text, field.type(), defined.zone())).toList(),
          defined.empty());
    }
    if (every != null) {
      if (field.type() != FieldType.INTEGER && field.type() != FieldType.DECIMAL) {
        throw new IllegalArgumentException(
            "field '%s' (%s) has no buckets; 'every' is for dates and numbers"
                .formatted(field.name(), field.type().word()));
      }
      return new FacetRequest.Histogram(
          defined.name(),
          defined.field(),
          value(every, field),
          chosen.stream().map(text -> interval(text, field)).toList(),
          defined.empty());
    }
    if (!defined.ranges().isEmpty()) {
      return new FacetRequest.Ranges(
          defined.name(),
          defined.field(),
          defined.ranges().stream().map(text -> interval(text, field)).toList(),
          chosen.stream().map(text -> interval(text, field)).toList());
    }
    List<Object> values = chosen.stream().map(text -> value(text, field)).toList();
    if (field.type() == FieldType.PATH && !field.isChild()) {
      if (defined.together() || defined.split() != null) {
        throw new IllegalArgumentException(
            "field '%s' is a path, of which one is chosen at a time".formatted(field.name()));
      }
      // What lies in the path that is chosen is what one may want to choose next.
      return new FacetRequest.Paths(
          defined.name(),
          defined.field(),
          chosen.size() == 1 ? chosen.getFirst() : "",
          values,
          defined.limit());
    }
    FacetRequest.Values counted =
        new FacetRequest.Values(
            defined.name(),
            defined.field(),
            values,
            defined.limit(),
            defined.order(),
            defined.given().stream().map(text -> value(text, field)).toList(),
            search,
            defined.together());
    return field.isChild() ? new FacetRequest.Children(counted, defined.rows()) : counted;
  }

  private static DateUnit unit(String word) {
    for (DateUnit unit : DateUnit.values()) {
      if (unit.word().equals(word)) {
        return unit;
      }
    }
    throw new IllegalArgumentException(
        "'"
            + word
            + "' is no unit of the calendar; there are year, quarter, month, week, day, hour");
  }

  /**
   * A range {@code from..to}, of which one side may be missing; {@code to} is not included.
   *
   * @throws IllegalArgumentException with a sentence, if it is none
   */
  static FacetRequest.Interval interval(String text, Field field) {
    int dots = text.indexOf("..");
    if (dots < 0 || text.length() == 2) {
      throw new IllegalArgumentException("'" + text + "' is no range; write 10..20, ..10 or 20..");
    }
    String from = text.substring(0, dots);
    String to = text.substring(dots + 2);
    @Nullable Object low = from.isEmpty() ? null : value(from, field);
    @Nullable Object high = to.isEmpty() ? null : value(to, field);
    if (low != null && high != null && field.toNumber(low) >= field.toNumber(high)) {
      throw new IllegalArgumentException("range '" + text + "' ends before it begins");
    }
    return new FacetRequest.Interval(text, low, high);
  }
}
