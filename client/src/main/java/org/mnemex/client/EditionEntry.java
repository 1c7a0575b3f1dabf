package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * An edition, there or gone.
 *
 * @param state filling, ready, live, former or retired
 * @param until when a former edition goes, ISO 8601; else null
 * @param filledRecords how many records it was filled with; null while that goes on
 * @param filledMillis how long that took
 */
public record EditionEntry(
    int number,
    int version,
    String state,
    boolean fromStored,
    @Nullable String until,
    @Nullable Long filledRecords,
    @Nullable Long filledMillis) {}
