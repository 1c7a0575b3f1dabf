package org.mnemex.service.shard;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.shard.Shard;

/** A shard that has to be waited for, and whose calls throw {@link ShardAwayException}. */
interface Elsewhere extends Shard {
  /** The same at another node; null if no other one has it. */
  @Nullable Shard second();
}
