package org.mnemex.sync.source;

import java.util.Map;

/**
 * A record as it was read.
 *
 * @param content columns of the root by name; under a join's name a map of its columns, or a list
 *     of such maps; under {@code =field} the value of a field's SQL expression. Null values are
 *     absent
 */
public record AssembledRecord(RecordKey key, Map<String, Object> content) {}
