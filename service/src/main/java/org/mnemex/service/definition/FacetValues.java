package org.mnemex.service.definition;

import java.time.DateTimeException;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.schema.Field;

/** Parses values and ranges of facets from definitions and parameters. */
public final class FacetValues {
  private FacetValues() {}

  /**
   * A value of a field.
   *
   * @throws IllegalArgumentException with a sentence, if it is none
   */
  public static Object value(String text, Field field) {
    try {
      return field.type().parse(text);
    } catch (NumberFormatException | DateTimeException e) {
      throw new IllegalArgumentException(
          "'%s' is not a value of field '%s' (%s)"
              .formatted(text, field.name(), field.type().word()),
          e);
    }
  }

  static List<Object> all(List<String> texts, Field field) {
    return texts.stream().map(text -> value(text, field)).toList();
  }

  /**
   * A range {@code from..to}, of which one side may be missing; {@code to} is not included.
   *
   * @throws IllegalArgumentException with a sentence, if it is none
   */
  static Interval interval(String text, Field field) {
    int dots = text.indexOf("..");
    if (dots < 0 || text.length() == 2) {
      throw new IllegalArgumentException(
          "'" + text + "' is not a range; write 10..20, ..10 or 20..");
    }
    String from = text.substring(0, dots);
    String to = text.substring(dots + 2);
    @Nullable Object low = from.isEmpty() ? null : value(from, field);
    @Nullable Object high = to.isEmpty() ? null : value(to, field);
    if (low != null && high != null && field.toNumber(low) >= field.toNumber(high)) {
      throw new IllegalArgumentException("range '" + text + "' ends before it begins");
    }
    return new Interval(text, low, high);
  }
}
