package org.mnemex.service.shard;

import java.util.List;

/**
 * A call of shards of an edition at one moment.
 *
 * @param edition its names at all builders
 * @param shards numbers of the shards, from 0
 * @param states which commit of each of these shards is asked
 * @param call what is asked
 */
record ShardQuestion(
    List<String> edition, List<Integer> shards, List<String> states, ShardCall<?> call) {}
