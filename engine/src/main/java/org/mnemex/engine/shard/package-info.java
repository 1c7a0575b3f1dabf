/**
 * What shards of an edition that are in several places tell one another, as data. Start with {@link
 * org.mnemex.engine.shard.Shard}.
 */
@NullMarked
package org.mnemex.engine.shard;

import org.jspecify.annotations.NullMarked;
