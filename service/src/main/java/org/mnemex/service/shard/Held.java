package org.mnemex.service.shard;

import java.time.Instant;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * A shard that a node has.
 *
 * @param index the index, as far as the node knows
 * @param edition names of the edition at all builders
 * @param shard number of the shard, from 0
 * @param state says which commit it is
 * @param trueAt the moment up to which it includes everything, at least; null if unknown
 * @param position the position of the source up to which it includes everything; null if unknown
 * @param setAside keys of records that could not be mapped since
 */
public record Held(
    String index,
    List<String> edition,
    int shard,
    String state,
    @Nullable Instant trueAt,
    @Nullable String position,
    Set<String> setAside) {}
