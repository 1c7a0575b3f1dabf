package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Records that were read together.
 *
 * @param found existing records that meet the definition's condition
 * @param unreadable why a record could not be assembled, by key
 * @param rows how many root rows were read, the unreadable ones included
 * @param last the last key in order among all rows read, or null if there were none
 */
public record Records(
    List<AssembledRecord> found,
    Map<RecordKey, String> unreadable,
    int rows,
    @Nullable RecordKey last) {}
