package org.mnemex.service.status;

import org.mnemex.service.publish.Following;
import org.springframework.boot.health.contributor.Health;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.stereotype.Component;

/** Whether every index has an edition that answers. */
@Component
public class EditionsHealthIndicator implements HealthIndicator {
  private final Indexes indexes;
  private final Following following;

  public EditionsHealthIndicator(Indexes indexes, Following following) {
    this.indexes = indexes;
    this.following = following;
  }

  @Override
  public Health health() {
    Health.Builder health = Health.up();
    for (Indexes.IndexStatus index : indexes.all()) {
      Indexes.EditionStatus live = index.live();
      String problem =
          index.problem() != null
              ? index.problem()
              : live == null ? "no edition is live yet" : live.damage();
      health.withDetail(
          index.name(), problem == null && live != null ? "edition " + live.number() : problem);
      if (live == null || live.damage() != null) {
        health.down();
      }
    }
    if (following.isOn() && !following.answers()) {
      health.withDetail("store", "nothing is followed yet").down();
    }
    return health.build();
  }
}
