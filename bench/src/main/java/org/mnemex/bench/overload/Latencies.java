package org.mnemex.bench.overload;

import java.util.Arrays;

/** Durations that many threads measure. Thread-safe. */
final class Latencies {
  private double[] millis = new double[1024];
  private int count;

  synchronized void add(long nanos) {
    if (count == millis.length) {
      millis = Arrays.copyOf(millis, 2 * count);
    }
    millis[count++] = nanos / 1e6;
  }

  synchronized int count() {
    return count;
  }

  /** Median, 99th percentile and maximum, in milliseconds. */
  @Override
  public synchronized String toString() {
    if (count == 0) {
      return "-";
    }
    double[] sorted = Arrays.copyOf(millis, count);
    Arrays.sort(sorted);
    return "%,.0f / %,.0f / %,.0f"
        .formatted(
            sorted[count / 2],
            sorted[(int) Math.min(count - 1L, count * 99L / 100)],
            sorted[count - 1]);
  }
}
