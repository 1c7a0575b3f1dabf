package org.mnemex.sync.source;

import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The key of a record: the values of its key columns, none of them null.
 *
 * <p>Keys are equal if their texts are equal: queries, logs and journals give a number as a number,
 * a document's key or JSON as text, and all mean the same record.
 *
 * @param values in the order of the definition, each as it was read
 */
public record RecordKey(List<Object> values) {
  public RecordKey {
    values = List.copyOf(values);
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
   * Reads what {@link #text()} wrote. Values are texts; the reader of records converts them to the
   * types of their columns.
   *
   * @param columns the number of key columns
   */
  public static RecordKey parse(String text, int columns) {
    if (columns == 1) {
      return new RecordKey(List.of(text));
    }
    return new RecordKey(
        Arrays.stream(text.split("/", -1))
            .<Object>map(part -> part.replace("~1", "/").replace("~0", "~"))
            .toList());
  }

  @Override
  public boolean equals(@Nullable Object other) {
    if (!(other instanceof RecordKey key) || key.values.size() != values.size()) {
      return false;
    }
    for (int i = 0; i < values.size(); i++) {
      if (!values.get(i).toString().equals(key.values.get(i).toString())) {
        return false;
      }
    }
    return true;
  }

  @Override
  public int hashCode() {
    int hash = 1;
    for (Object value : values) {
      hash = 31 * hash + value.toString().hashCode();
    }
    return hash;
  }
}
