package org.mnemex.service.run;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.schema.Field;

/** Values and ranges of facets as they are written in definitions and parameters. */
final class FacetValues {
  private FacetValues() {}

  /**
   * A value of a field.
   *
   * @throws IllegalArgumentException with a sentence, if it is none
   */
  static Object value(String text, Field field) {
    try {
      return switch (field.type()) {
        case TEXT, EXACT, PATH -> text;
        case INTEGER -> Long.valueOf(text);
        case DECIMAL -> new BigDecimal(text);
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
