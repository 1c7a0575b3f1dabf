package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;

/**
 * The records that changes affect.
 *
 * @param causes the first change that affects a record, by its key
 * @param more where there are more records than were to be listed at a time
 */
public record Affected(Map<RecordKey, Change> causes, List<FanOut> more) {}
