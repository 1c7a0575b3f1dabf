package org.mnemex.service.install;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.change.Cost;

/**
 * What applying a definition did.
 *
 * @param change new, changed or same
 * @param version the version that counts now
 * @param cost what it took: at once, from stored or from database; null if there was nothing to do
 * @param edition the edition that is being filled because of it, or null
 */
public record Applied(
    String kind,
    String name,
    String change,
    int version,
    @Nullable String cost,
    @Nullable Integer edition) {
  /** The same with what was done to an index, if it is about that. */
  Applied of(IndexStep step, @Nullable Integer begun) {
    if (!kind.equals("index") || !name.equals(step.index().index().name())) {
      return this;
    }
    Cost took = step.cost();
    return new Applied(kind, name, change, version, took == null ? null : took.words(), begun);
  }
}
