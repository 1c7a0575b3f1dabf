package org.mnemex.service.meter;

import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.MultiGauge;
import io.micrometer.core.instrument.Tags;
import java.io.File;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.function.ToDoubleFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.status.Audits;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.status.Indexes.EditionStatus;
import org.mnemex.service.status.Indexes.IndexStatus;
import org.mnemex.sync.feed.FeedStatus;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/** Meters of each index: its live edition, its feed, its last audit. */
@Component
class IndexMeters {
  private static final Logger LOG = LoggerFactory.getLogger(IndexMeters.class);
  private static final double MILLIS = 1000;

  private final Indexes indexes;
  private final Audits audits;
  private final Clock clock;
  private final Map<MultiGauge, ToDoubleFunction<Seen>> gauges = new LinkedHashMap<>();
  private volatile Map<String, Seen> last = Map.of();

  IndexMeters(
      MeterRegistry registry,
      Indexes indexes,
      Audits audits,
      MnemexSettings settings,
      Clock clock) {
    this.indexes = indexes;
    this.audits = audits;
    this.clock = clock;
    add(
        registry,
        "mnemex.index.documents",
        "",
        "documents of the live edition",
        live(EditionStatus::documents));
    add(
        registry,
        "mnemex.index.size",
        "bytes",
        "files of the live edition",
        live(EditionStatus::bytes));
    add(
        registry,
        "mnemex.index.segments",
        "",
        "segments of the live edition",
        live(EditionStatus::segments));
    add(
        registry,
        "mnemex.index.quarantined",
        "",
        "records in quarantine",
        live(EditionStatus::quarantined));
    add(
        registry,
        "mnemex.index.waiting",
        "",
        "1 if an edition waits for approval",
        seen -> seen.index.held() == null ? 0 : 1);
    add(
        registry,
        "mnemex.feed.following",
        "",
        "1 if the index follows its source, or somebody paused it",
        IndexMeters::following);
    add(
        registry,
        "mnemex.feed.lag",
        "seconds",
        "99th percentile of the time from commit to visibility",
        live(edition -> Math.max(0, edition.lagP99Millis()) / MILLIS));
    add(
        registry,
        "mnemex.feed.changes",
        "",
        "records updated since the service started",
        live(EditionStatus::changes));
    add(
        registry,
        "mnemex.audit.clean",
        "",
        "1 if the last audit found no difference",
        seen -> clean(seen.audit));
    add(
        registry,
        "mnemex.audit.age",
        "seconds",
        "since the last audit that ended",
        seen -> age(seen.audit));
    File records = settings.data().resolve("mnemex.db").toFile();
    Gauge.builder("mnemex.records.size", records, File::length)
        .description("our own records")
        .baseUnit("bytes")
        .strongReference(true)
        .register(registry);
  }

  /** An index at a moment, and its last audit. */
  private record Seen(IndexStatus index, Audits.@Nullable AuditView audit) {}

  private Seen seen(IndexStatus index) {
    // An index that does not run has no edition, and cannot be asked.
    return new Seen(index, index.live() == null ? null : audits.last(index.name()));
  }

  private static double following(Seen seen) {
    EditionStatus live = seen.index.live();
    if (live == null) {
      return seen.index.problem() == null ? Double.NaN : 0;
    }
    return live.phase() == FeedStatus.Phase.LIVE || live.phase() == FeedStatus.Phase.PAUSED ? 1 : 0;
  }

  private void add(
      MeterRegistry registry,
      String name,
      String unit,
      String about,
      ToDoubleFunction<Seen> value) {
    gauges.put(
        MultiGauge.builder(name)
            .description(about)
            .baseUnit(unit.isEmpty() ? null : unit)
            .register(registry),
        value);
  }

  /** Of the live edition; not a number as long as there is none. */
  private static ToDoubleFunction<Seen> live(ToDoubleFunction<EditionStatus> value) {
    return seen -> seen.index.live() == null ? Double.NaN : value.applyAsDouble(seen.index.live());
  }

  private static double clean(Audits.@Nullable AuditView audit) {
    return audit == null ? Double.NaN : Boolean.TRUE.equals(audit.clean()) ? 1 : 0;
  }

  private double age(Audits.@Nullable AuditView audit) {
    return audit == null
        ? Double.NaN
        : Duration.between(Instant.parse(audit.started()), clock.instant()).toMillis() / MILLIS;
  }

  /** Reads all values, for as many indexes as there are now. */
  @Scheduled(fixedDelay = 5, initialDelay = 1, timeUnit = TimeUnit.SECONDS)
  void read() {
    try {
      readAll();
    } catch (RuntimeException e) {
      LOG.debug("meters keep their values", e);
    }
  }

  private void readAll() {
    Map<String, Seen> all = new LinkedHashMap<>();
    for (IndexStatus index : indexes.all()) {
      all.put(index.name(), seen(index));
    }
    last = all;
    for (Map.Entry<MultiGauge, ToDoubleFunction<Seen>> gauge : gauges.entrySet()) {
      List<MultiGauge.Row<?>> rows = new ArrayList<>();
      for (String index : all.keySet()) {
        if (!Double.isNaN(value(index, gauge.getValue()))) {
          rows.add(
              MultiGauge.Row.of(Tags.of("index", index), () -> value(index, gauge.getValue())));
        }
      }
      // A row that was replaced would be away for a moment, and missing to who scrapes then.
      gauge.getKey().register(rows, false);
    }
  }

  private double value(String index, ToDoubleFunction<Seen> of) {
    Seen seen = last.get(index);
    return seen == null ? Double.NaN : of.applyAsDouble(seen);
  }
}
