package org.mnemex.sync.source;

import java.util.List;

/**
 * The key of a record: the values of its key columns, none of them null.
 *
 * @param values in the order of the definition
 */
public record RecordKey(List<Object> values) {
  public RecordKey {
    // Drivers and JSON disagree on the class of small numbers; a key must not.
    values = values.stream().map(v -> v instanceof Integer i ? (Object) i.longValue() : v).toList();
  }

  /**
   * The document's key: values joined by {@code /}; in them {@code ~} and {@code /} are escaped.
   */
  public String text() {
    if (values.size() == 1) {
      return values.getFirst().toString();
    }
    StringBuilder out = new StringBuilder();
    for (Object value : values) {
      if (!out.isEmpty()) {
        out.append('/');
      }
      // The escapes of JSON Pointer (RFC 6901).
      out.append(value.toString().replace("~", "~0").replace("/", "~1"));
    }
    return out.toString();
  }

  /**
   * Reads what {@link #text()} wrote. Values come back as texts, which databases compare with
   * numbers as well where the column is one.
   *
   * @param columns how many key columns there are
   */
  public static RecordKey parse(String text, int columns) {
    if (columns == 1) {
      return new RecordKey(List.of(text));
    }
    return new RecordKey(
        java.util.Arrays.stream(text.split("/", -1))
            .<Object>map(part -> part.replace("~1", "/").replace("~0", "~"))
            .toList());
  }
}
