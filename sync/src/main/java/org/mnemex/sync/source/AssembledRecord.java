package org.mnemex.sync.source;

import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A record as it was read.
 *
 * @param content columns of the root by name; under a join's name a map of its columns, or a list
 *     of such maps; under {@code =field} the value of a field's SQL expression. Null values are
 *     absent
 * @param json the same as it was stored, if it was read from there; else null
 */
public record AssembledRecord(RecordKey key, Map<String, Object> content, byte @Nullable [] json) {
  /** A record that was not read from what is stored. */
  public AssembledRecord(RecordKey key, Map<String, Object> content) {
    this(key, content, null);
  }
}
