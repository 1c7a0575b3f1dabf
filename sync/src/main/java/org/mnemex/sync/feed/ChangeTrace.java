package org.mnemex.sync.feed;

import java.time.Instant;
import org.mnemex.sync.source.Position;

/**
 * One record's way through the feed.
 *
 * @param key key of the document
 * @param table the table in which the change was made
 * @param outcome what the feed did
 * @param position position of the change in the source
 * @param committed when the change was committed, by the database's clock
 * @param captured when the feed received it
 * @param read when the record was read again
 * @param mapped when its document was built
 * @param visible when searches began to see it
 */
public record ChangeTrace(
    String key,
    String table,
    Outcome outcome,
    Position position,
    Instant committed,
    Instant captured,
    Instant read,
    Instant mapped,
    Instant visible) {
  /** The outcome for a record. */
  public enum Outcome {
    INDEXED,
    REMOVED,
    UNCHANGED,
    QUARANTINED
  }

  /** Milliseconds from the commit in the database to visibility, at least 0. */
  public long lagMillis() {
    return Math.max(0, visible.toEpochMilli() - committed.toEpochMilli());
  }
}
