package org.mnemex.sync.feed;

import java.time.Instant;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;

/**
 * How a feed is doing.
 *
 * @param phase what it is at
 * @param problem why it waits or stopped, or null
 * @param position what is applied up to
 * @param trueAt the index says what the database said at this moment, or later
 * @param recordsDone records read by the backfill
 * @param recordsTotal records that the backfill has to read, 0 if not known
 * @param changes records brought up to date since the start of the service
 * @param lagMedianMillis median of the last changes, -1 if there were none
 * @param lagP99Millis 99th percentile of the last changes, -1 if there were none
 */
public record FeedStatus(
    Phase phase,
    @Nullable String problem,
    @Nullable Position position,
    @Nullable Instant trueAt,
    long recordsDone,
    long recordsTotal,
    long recordsPerSecond,
    long changes,
    long lagMedianMillis,
    long lagP99Millis) {
  /** What a feed is at. */
  public enum Phase {
    STARTING,
    BACKFILL,
    LIVE,
    /** Somebody has stopped it for a while. */
    PAUSED,
    /** Changes would remove so much that a person has to agree. */
    HELD,
    /** The source is away; the feed tries again by itself. */
    WAITING,
    /** The position is lost; a new edition has to be filled. */
    LOST,
    /** Something failed that should not; the feed tries again by itself. */
    FAILED,
    /** The edition is damaged, so nothing can be written into it. */
    STOPPED
  }
}
