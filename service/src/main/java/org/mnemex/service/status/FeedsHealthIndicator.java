package org.mnemex.service.status;

import org.mnemex.sync.feed.FeedStatus;
import org.springframework.boot.health.contributor.Health;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.stereotype.Component;

/**
 * Whether every index follows its source. A feed that somebody has paused is as it should be; one
 * that waits for its source, or for a person, is not.
 */
@Component
public class FeedsHealthIndicator implements HealthIndicator {
  private final Indexes indexes;

  public FeedsHealthIndicator(Indexes indexes) {
    this.indexes = indexes;
  }

  @Override
  public Health health() {
    Health.Builder health = Health.up();
    for (Indexes.IndexStatus index : indexes.all()) {
      Indexes.EditionStatus live = index.live();
      if (live == null) {
        continue;
      }
      health.withDetail(
          index.name(), live.phase() + (live.problem() == null ? "" : ": " + live.problem()));
      if (live.phase() != FeedStatus.Phase.LIVE && live.phase() != FeedStatus.Phase.PAUSED) {
        health.down();
      }
    }
    return health.build();
  }
}
