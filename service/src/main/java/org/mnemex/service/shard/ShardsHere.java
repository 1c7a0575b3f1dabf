package org.mnemex.service.shard;

import java.util.List;

/**
 * What a search node has for others.
 *
 * @param upTo how much is known with this, to be shown when asking again
 * @param shards all that it has
 */
public record ShardsHere(String upTo, List<Held> shards) {}
