package org.mnemex.service.node;

import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.insight.CountsToPass;
import org.mnemex.service.publish.StoreView;

/**
 * What a search node tells its builder.
 *
 * @param known the {@code upTo} of the last news; null if there were none
 * @param store what it follows
 * @param counts what was searched for there; null if nothing is to be passed on
 * @param words whether to answer what is searched for on all machines together
 */
public record NodeReport(
    @Nullable String known,
    StoreView store,
    CountsToPass.@Nullable Batch counts,
    @Nullable Boolean words) {
  public NodeReport {
    Objects.requireNonNull(store, "store");
  }
}
