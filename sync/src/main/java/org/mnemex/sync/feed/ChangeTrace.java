package org.mnemex.sync.feed;

import java.time.Instant;
import org.mnemex.sync.source.Position;

/**
 * One record's way through the feed.
 *
 * @param key the document's key
 * @param table where the change was made
 * @param outcome what became of it
 * @param committed when the change was made, by the database's clock, in milliseconds
 * @param captured when the feed saw it
 * @param read when the record had been read anew
 * @param mapped when its document was made
 * @param visible from when on searches see it
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
  /** What became of a record. */
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
