package org.mnemex.sync.source;

import org.jspecify.annotations.Nullable;

/**
 * A record as it was read.
 *
 * @param json the same as it was stored, if it was read from there; else null
 */
public record AssembledRecord(RecordKey key, RecordContent content, byte @Nullable [] json) {
  /** A record that was not read from what is stored. */
  public AssembledRecord(RecordKey key, RecordContent content) {
    this(key, content, null);
  }
}
