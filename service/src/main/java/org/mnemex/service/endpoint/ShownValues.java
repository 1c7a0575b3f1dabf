package org.mnemex.service.endpoint;

import java.math.BigDecimal;
import java.time.temporal.Temporal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.schema.GroupRow;

/** Formats values of documents for answers. */
public final class ShownValues {
  private ShownValues() {}

  /**
   * Dates as ISO 8601 text, places as latitude and longitude, rows of a group as objects; a single
   * value without a list.
   */
  public static Object shown(List<Object> values) {
    List<Object> plain = values.stream().map(ShownValues::plain).toList();
    return plain.size() == 1 ? plain.getFirst() : plain;
  }

  /** A single value in that form. */
  public static Object plain(Object value) {
    return switch (value) {
      case Temporal moment -> moment.toString();
      case BigDecimal number -> number.toString();
      case GroupRow row -> {
        Map<String, Object> fields = new LinkedHashMap<>();
        row.fields()
            .forEach(
                (name, values) -> {
                  if (!values.isEmpty()) {
                    fields.put(name, shown(values));
                  }
                });
        yield fields;
      }
      default -> value;
    };
  }

  /** All values of all fields in that form. */
  public static Map<String, List<Object>> ofAll(Map<String, List<Object>> fields) {
    Map<String, List<Object>> all = new LinkedHashMap<>();
    fields.forEach(
        (name, values) -> all.put(name, values.stream().map(ShownValues::plain).toList()));
    return all;
  }
}
