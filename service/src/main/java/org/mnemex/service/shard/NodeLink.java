package org.mnemex.service.shard;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Another search node that shares the shards of indexes with this one.
 *
 * @param name what it is called
 * @param address where it is
 * @param shards which it is to have, from 0
 * @param problem why it does not answer now, or null
 */
public record NodeLink(
    String name, String address, List<Integer> shards, @Nullable String problem) {}
