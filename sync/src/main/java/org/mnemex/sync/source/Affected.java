package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;

/**
 * The records that changes affect.
 *
 * @param causes the first change that affects a record, by key
 * @param more fan-outs with records beyond the limit
 */
public record Affected(Map<RecordKey, Change> causes, List<FanOut> more) {}
