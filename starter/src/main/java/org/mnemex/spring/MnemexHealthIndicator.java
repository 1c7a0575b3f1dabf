package org.mnemex.spring;

import org.mnemex.client.MnemexClient;
import org.springframework.boot.health.contributor.AbstractHealthIndicator;
import org.springframework.boot.health.contributor.Health;

/** Up while the service answers. */
final class MnemexHealthIndicator extends AbstractHealthIndicator {
  private final MnemexClient client;

  MnemexHealthIndicator(MnemexClient client) {
    super("the search service could not be asked");
    this.client = client;
  }

  @Override
  protected void doHealthCheck(Health.Builder builder) {
    builder.withDetail("service", client.service().toString());
    if (client.isUp()) {
      builder.up();
    } else {
      builder.down();
    }
  }
}
