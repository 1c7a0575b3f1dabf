package org.mnemex.sync.edition;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.feed.FeedStatus;

/** The condition for an edition to replace another. */
final class CaughtUp {
  private static final Duration MAX_LAG = Duration.ofSeconds(30);

  private CaughtUp() {}

  /**
   * Requires that an edition is complete and close behind the database.
   *
   * @param live the live edition; if it lags for the same reason, the other may lag too
   * @throws EditionRefusedException if it is not
   */
  static void require(Edition edition, @Nullable Edition live, String index, Clock clock)
      throws EditionRefusedException {
    FeedStatus status = edition.feed().status();
    String which = "edition %d of index '%s'".formatted(edition.number(), index);
    if (!edition.feed().isComplete()) {
      throw new EditionRefusedException(
          "%s is still being filled (%,d of %,d records); promote it when it is complete"
              .formatted(which, status.recordsDone(), status.recordsTotal()));
    }
    if (lags(status, clock) && !lagsForTheSameReason(live, status)) {
      throw new EditionRefusedException(
          "%s lags behind the database (%s%s); wait until it has caught up"
              .formatted(
                  which,
                  status.phase().name().toLowerCase(Locale.ROOT),
                  status.problem() == null ? "" : ": " + status.problem()));
    }
  }

  private static boolean lags(FeedStatus status, Clock clock) {
    Instant trueAt = status.trueAt();
    return status.phase() != FeedStatus.Phase.LIVE
        || trueAt == null
        || trueAt.isBefore(clock.instant().minus(MAX_LAG));
  }

  private static boolean lagsForTheSameReason(@Nullable Edition live, FeedStatus status) {
    return live != null && live.feed().phase() == status.phase() && status.problem() != null;
  }
}
