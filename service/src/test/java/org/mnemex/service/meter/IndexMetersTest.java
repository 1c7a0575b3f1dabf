package org.mnemex.service.meter;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import io.micrometer.core.instrument.Meter;
import io.micrometer.core.instrument.simple.SimpleMeterRegistry;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.status.Audits;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.status.Indexes.IndexStatus;

/** Meters of indexes that come and go, as they are scraped. */
class IndexMetersTest {
  private final SimpleMeterRegistry registry = new SimpleMeterRegistry();
  private final Indexes indexes = mock(Indexes.class);
  private final List<Meter.Id> removed = new ArrayList<>();
  private final IndexMeters meters;

  IndexMetersTest() {
    MnemexSettings settings = mock(MnemexSettings.class);
    when(settings.data()).thenReturn(Path.of("data"));
    meters = new IndexMeters(registry, indexes, mock(Audits.class), settings, Clock.systemUTC());
    registry.config().onMeterRemoved(meter -> removed.add(meter.getId()));
  }

  private void read(IndexStatus... there) {
    when(indexes.all()).thenReturn(List.of(there));
    meters.read();
  }

  private static IndexStatus index(String name, @Nullable String held) {
    return new IndexStatus(name, "garden", 1, false, false, held, null, null, null, null);
  }

  private double waiting(String index) {
    return registry.get("mnemex.index.waiting").tag("index", index).gauge().value();
  }

  /** A scrape between the removal of a meter and its return would miss it. */
  @Test
  void aMeterStaysWhileItsIndexDoes() {
    read(index("plants", null), index("beds", null));
    assertThat(waiting("plants")).isZero();
    read(index("plants", "fewer documents"), index("beds", null));
    assertThat(waiting("plants")).isOne();
    assertThat(removed).isEmpty();
    read(index("plants", "fewer documents"));
    assertThat(removed).extracting(id -> id.getTag("index")).containsOnly("beds");
    assertThat(waiting("plants")).isOne();
  }
}
