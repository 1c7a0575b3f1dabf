package org.mnemex.sync.feed;

import java.time.Instant;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;

/**
 * The status of a feed.
 *
 * @param phase its phase
 * @param problem why it waits or stopped, or null
 * @param position the position that is applied
 * @param trueAt the moment up to which the index includes everything, at least
 * @param recordsDone records read by the backfill
 * @param recordsTotal records that the backfill has to read, 0 if unknown
 * @param changes records updated since the start of the service
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
  /** The phase of a feed. */
  public enum Phase {
    STARTING,
    BACKFILL,
    LIVE,
    /** Somebody has paused it. */
    PAUSED,
    /** Changes would remove so much that they need approval. */
    HELD,
    /** The source is unreachable; the feed retries. */
    WAITING,
    /** The position is lost; a new edition has to be filled. */
    LOST,
    /** An unexpected failure; the feed retries. */
    FAILED,
    /** The edition is damaged and cannot be written. */
    STOPPED
  }
}
