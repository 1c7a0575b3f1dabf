package org.mnemex.service.node;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.store.CountedStore;

/**
 * A search node, as it has told.
 *
 * @param name what it is called
 * @param state {@code here}, or {@code away} if it has not reported lately
 * @param since when it first reported, ISO 8601, UTC
 * @param seen when it last reported, ISO 8601, UTC
 * @param problem what it says is wrong, or null
 * @param traffic what it has used of the store
 * @param editions what it answers with
 */
public record NodeView(
    String name,
    String state,
    String since,
    String seen,
    @Nullable String problem,
    CountedStore.@Nullable Traffic traffic,
    List<NodeEdition> editions) {

  /**
   * An edition that a search node answers with.
   *
   * @param index name of the index
   * @param shard which shard of the index, from 0; null if it is not divided
   * @param edition number of the edition
   * @param trueAt the moment up to which it includes everything, ISO 8601, UTC; null if unknown
   * @param bytes how many bytes its files have
   * @param lagMillis how long after it was published the last state was known to be there, in
   *     milliseconds; null if that is not known
   */
  public record NodeEdition(
      String index,
      @Nullable Integer shard,
      int edition,
      @Nullable String trueAt,
      long bytes,
      @Nullable Long lagMillis) {}
}
