package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * What applying a definition did.
 *
 * @param change new, changed or same
 * @param edition the edition that is being filled because of it
 */
public record Applied(
    String kind, String name, String change, int version, @Nullable Integer edition) {}
