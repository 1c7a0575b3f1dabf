package org.mnemex.service.condition;

import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Timer;
import io.micrometer.core.instrument.distribution.CountAtBucket;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Map;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;

/** The searches of the last five minutes, from the meters that count all since the start. */
final class SearchWindow {
  private static final Duration LENGTH = Duration.ofMinutes(5);

  /** Of fewer, a single one would decide. */
  private static final long ENOUGH = 20;

  private static final double PERCENTILE = 0.99;
  private static final double PERCENT = 100;

  private final MeterRegistry registry;
  private final Deque<Sample> samples = new ArrayDeque<>();

  /**
   * @param searches how many were answered, in any way
   * @param failed how many with a status of 500 or more
   * @param buckets by endpoint, how many took at most so many nanoseconds
   */
  private record Sample(
      Instant at, long searches, long failed, Map<String, SortedMap<Double, Double>> buckets) {}

  SearchWindow(MeterRegistry registry) {
    this.registry = registry;
  }

  /** Takes another sample, and forgets old ones. */
  void sample(Instant now) {
    long searches = 0;
    long failed = 0;
    for (Timer timer : registry.find("http.server.requests").timers()) {
      String uri = timer.getId().getTag("uri");
      if (uri != null && (uri.equals("/search") || uri.startsWith("/search/"))) {
        searches += timer.count();
        failed += "SERVER_ERROR".equals(timer.getId().getTag("outcome")) ? timer.count() : 0;
      }
    }
    Map<String, SortedMap<Double, Double>> buckets = new TreeMap<>();
    for (Timer timer : registry.find("mnemex.searches").timers()) {
      SortedMap<Double, Double> counts = new TreeMap<>();
      for (CountAtBucket bucket : timer.takeSnapshot().histogramCounts()) {
        counts.put(bucket.bucket(TimeUnit.NANOSECONDS), bucket.count());
      }
      counts.put(Double.POSITIVE_INFINITY, (double) timer.count());
      buckets.put(String.valueOf(timer.getId().getTag("endpoint")), counts);
    }
    samples.addLast(new Sample(now, searches, failed, buckets));
    while (samples.getFirst().at.isBefore(now.minus(LENGTH))) {
      samples.removeFirst();
    }
  }

  /** How many searches failed, in percent; 0 if there were too few to tell. */
  double failedPercent() {
    Sample first = samples.getFirst();
    Sample last = samples.getLast();
    long searches = last.searches - first.searches;
    return searches < ENOUGH ? 0 : PERCENT * (last.failed - first.failed) / searches;
  }

  /** By endpoint, the 99th percentile in milliseconds, rounded up to a bucket of the meter. */
  Map<String, Double> slowest() {
    Map<String, Double> slowest = new TreeMap<>();
    samples
        .getLast()
        .buckets
        .forEach((endpoint, counts) -> slowest.put(endpoint, slowest(endpoint, counts)));
    return slowest;
  }

  private double slowest(String endpoint, SortedMap<Double, Double> now) {
    Map<Double, Double> before = samples.getFirst().buckets.getOrDefault(endpoint, new TreeMap<>());
    double all =
        now.get(Double.POSITIVE_INFINITY) - before.getOrDefault(Double.POSITIVE_INFINITY, 0.0);
    if (all < ENOUGH) {
      return 0;
    }
    for (Map.Entry<Double, Double> bucket : now.entrySet()) {
      if (bucket.getValue() - before.getOrDefault(bucket.getKey(), 0.0) >= PERCENTILE * all) {
        return bucket.getKey() / TimeUnit.MILLISECONDS.toNanos(1);
      }
    }
    return Double.POSITIVE_INFINITY;
  }
}
