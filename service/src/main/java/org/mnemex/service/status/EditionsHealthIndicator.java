package org.mnemex.service.status;

import org.springframework.boot.health.contributor.Health;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.stereotype.Component;

/** Whether every index has an edition that answers. */
@Component
public class EditionsHealthIndicator implements HealthIndicator {
  private final Indexes indexes;

  public EditionsHealthIndicator(Indexes indexes) {
    this.indexes = indexes;
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
    return health.build();
  }
}
