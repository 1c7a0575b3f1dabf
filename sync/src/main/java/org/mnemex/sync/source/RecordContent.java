package org.mnemex.sync.source;

import java.util.LinkedHashMap;
import java.util.Map;

/**
 * The content of a record. Null values are absent.
 *
 * @param columns columns of the root by name; under a join's name a map of its columns, or a list
 *     of such maps
 * @param computed results of SQL expressions, by field
 */
public record RecordContent(Map<String, Object> columns, Map<String, Object> computed) {
  /** A record without expressions. */
  public static RecordContent of(Map<String, Object> columns) {
    return new RecordContent(columns, Map.of());
  }

  /** A record that is still being read. */
  public static RecordContent empty() {
    return new RecordContent(new LinkedHashMap<>(), new LinkedHashMap<>());
  }
}
