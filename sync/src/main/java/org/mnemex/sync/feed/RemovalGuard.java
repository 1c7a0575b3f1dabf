package org.mnemex.sync.feed;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;

/**
 * Holds removals of a large share of the index until somebody approves: a table emptied by mistake
 * must not empty the index. Removals are counted over a time window, so that many small batches
 * count like a large one.
 *
 * <p>Used by the feed's thread, except {@link #agree}.
 */
public final class RemovalGuard {
  private static final Duration WINDOW = Duration.ofMinutes(10);

  /** This many may always be removed. */
  private static final int HARMLESS = 100;

  private volatile double share;
  private final Clock clock;
  private Instant windowEnd = Instant.MIN;
  private long documentsThen;
  private long removed;
  private volatile Instant agreedUntil = Instant.MIN;

  /**
   * @param share the share of documents that may be removed, 0 to 1
   */
  RemovalGuard(double share, Clock clock) {
    this.share = share;
    this.clock = clock;
  }

  /**
   * Whether a removal needs approval.
   *
   * @param share the share of documents that may be removed, 0 to 1
   */
  public static boolean isTooMany(long removed, long of, double share) {
    return removed > HARMLESS && removed > share * of;
  }

  /**
   * Permits and counts removals.
   *
   * @param count number of removals
   * @param documents number of documents now
   * @throws RemovalsHeldException if they need approval
   */
  void remove(long count, long documents) {
    Instant now = clock.instant();
    if (now.isAfter(windowEnd)) {
      windowEnd = now.plus(WINDOW);
      documentsThen = documents;
      removed = 0;
    }
    // Measured against the current size if the index has grown.
    documentsThen = Math.max(documentsThen, documents);
    if (!isAgreed() && isTooMany(removed + count, documentsThen, share)) {
      throw new RemovalsHeldException(
          "%,d documents of %,d would be removed%s: more than %.0f%% within %d minutes. They stay until somebody approves"
              .formatted(
                  count,
                  documentsThen,
                  removed == 0 ? "" : ", after %,d that are gone".formatted(removed),
                  100 * share,
                  WINDOW.toMinutes()));
    }
    removed += count;
  }

  /** Whether an approval is in effect. */
  boolean isAgreed() {
    return !clock.instant().isAfter(agreedUntil);
  }

  /** Changes the share. */
  void limit(double other) {
    share = other;
  }

  /** Approves all removals within the next window. */
  void agree() {
    agreedUntil = clock.instant().plus(WINDOW);
  }
}
