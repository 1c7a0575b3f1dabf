package org.mnemex.client;

import java.time.Instant;

/**
 * One record's way through the feed.
 *
 * @param outcome INDEXED, REMOVED, UNCHANGED or QUARANTINED
 * @param committed by the database's clock
 */
public record Change(
    String key,
    String table,
    String outcome,
    Instant committed,
    Instant captured,
    Instant read,
    Instant mapped,
    Instant visible) {
  /** Milliseconds from the commit to visibility. */
  public long lagMillis() {
    return Math.max(0, visible.toEpochMilli() - committed.toEpochMilli());
  }
}
