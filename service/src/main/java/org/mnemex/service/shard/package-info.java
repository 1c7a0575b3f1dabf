/**
 * Shards of indexes on several search nodes: who has which, and how they ask one another. A node
 * that does not have all shards of an index asks others for the rest of each search.
 */
@NullMarked
package org.mnemex.service.shard;

import org.jspecify.annotations.NullMarked;
