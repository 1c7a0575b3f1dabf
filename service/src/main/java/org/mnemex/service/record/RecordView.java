package org.mnemex.service.record;

import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.RecordContent;

/**
 * A record for people, in the order of names.
 *
 * @param columns columns of the root by name, and by the names of joins their rows
 * @param computed what the SQL expressions of fields came to, by field
 */
public record RecordView(Map<String, Object> columns, Map<String, Object> computed) {
  static RecordView of(RecordContent content) {
    return new RecordView(new TreeMap<>(content.columns()), new TreeMap<>(content.computed()));
  }

  static @Nullable RecordView ofNullable(@Nullable RecordContent content) {
    return content == null ? null : of(content);
  }
}
