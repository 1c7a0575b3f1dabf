package org.mnemex.sync.feed;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;

/**
 * Holds removals back when they would take a large share of the index, until somebody approves: a
 * table that was emptied by mistake must not empty the index. Removals are counted over a window of
 * time, so that many small batches count as one large one does.
 *
 * <p>Of the feed's thread, but for {@link #agree}.
 */
public final class RemovalGuard {
  private static final Duration WINDOW = Duration.ofMinutes(10);

  /** So few may go at any time. */
  private static final int HARMLESS = 100;

  private volatile double share;
  private final Clock clock;
  private Instant windowEnd = Instant.MIN;
  private long documentsThen;
  private long removed;
  private volatile Instant agreedUntil = Instant.MIN;

  /**
   * @param share of the documents that may be removed, 0 to 1
   */
  RemovalGuard(double share, Clock clock) {
    this.share = share;
    this.clock = clock;
  }

  /**
   * Whether so many documents may only go with approval.
   *
   * @param share of the documents that may be removed, 0 to 1
   */
  public static boolean isTooMany(long removed, long of, double share) {
    return removed > HARMLESS && removed > share * of;
  }

  /**
   * Asks whether documents may be removed, and counts them if so.
   *
   * @param count how many
   * @param documents how many there are now
   * @throws RemovalsHeldException if a person has to agree first
   */
  void remove(long count, long documents) {
    Instant now = clock.instant();
    if (now.isAfter(windowEnd)) {
      windowEnd = now.plus(WINDOW);
      documentsThen = documents;
      removed = 0;
    }
    // An index that grows may lose as many as it has.
    documentsThen = Math.max(documentsThen, documents);
    if (!isAgreed() && isTooMany(removed + count, documentsThen, share)) {
      throw new RemovalsHeldException(
          "%,d documents of %,d would be removed%s: more than %.0f%% within %d minutes. They stay until somebody agrees"
              .formatted(
                  count,
                  documentsThen,
                  removed == 0 ? "" : ", after %,d that are gone".formatted(removed),
                  100 * share,
                  WINDOW.toMinutes()));
    }
    removed += count;
  }

  /** Whether somebody has agreed lately. */
  boolean isAgreed() {
    return !clock.instant().isAfter(agreedUntil);
  }

  /** Takes another share. */
  void limit(double other) {
    share = other;
  }

  /** Lets everything be removed that goes within the next window. */
  void agree() {
    agreedUntil = clock.instant().plus(WINDOW);
  }
}
