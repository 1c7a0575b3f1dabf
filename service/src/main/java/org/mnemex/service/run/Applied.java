package org.mnemex.service.run;

import org.jspecify.annotations.Nullable;

/**
 * What applying a definition did.
 *
 * @param change new, changed or same
 * @param version the version that counts now
 * @param edition the edition that is being filled because of it, or null
 */
public record Applied(
    String kind, String name, String change, int version, @Nullable Integer edition) {}
