package org.mnemex.service.record;

import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.RecordContent;

/**
 * A record for display, sorted by name.
 *
 * @param columns columns of the root by name, and joined rows by the name of the join
 * @param computed results of SQL expressions, by field
 */
public record RecordView(Map<String, Object> columns, Map<String, Object> computed) {
  static RecordView of(RecordContent content) {
    return new RecordView(new TreeMap<>(content.columns()), new TreeMap<>(content.computed()));
  }

  static @Nullable RecordView ofNullable(@Nullable RecordContent content) {
    return content == null ? null : of(content);
  }
}
