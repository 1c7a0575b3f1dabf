package org.mnemex.sync.source;

import org.jspecify.annotations.Nullable;

/**
 * A record as it was read.
 *
 * @param json its stored form, if it was read from an edition; else null
 */
public record AssembledRecord(RecordKey key, RecordContent content, byte @Nullable [] json) {
  /** A record read from a source. */
  public AssembledRecord(RecordKey key, RecordContent content) {
    this(key, content, null);
  }
}
