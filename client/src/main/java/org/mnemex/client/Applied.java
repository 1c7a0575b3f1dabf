package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * What applying a definition did.
 *
 * @param kind kind of the definition
 * @param name its name
 * @param change new, changed or same
 * @param version the version that is current now
 * @param cost what it took: at once, from stored or from database; null if there was nothing to do
 * @param edition the edition that is being filled because of it, or null
 */
public record Applied(
    String kind,
    String name,
    String change,
    int version,
    @Nullable String cost,
    @Nullable Integer edition) {}
