package org.mnemex.bench;

import java.util.Arrays;

/** Durations of repeated runs. */
final class Times {
  private double[] millis = new double[256];
  private int count;

  void add(long nanos) {
    if (count == millis.length) {
      millis = Arrays.copyOf(millis, 2 * count);
    }
    millis[count++] = nanos / 1e6;
  }

  /** The duration that a share of the runs did not exceed, in milliseconds. */
  double quantile(double share) {
    double[] sorted = Arrays.copyOf(millis, count);
    Arrays.sort(sorted);
    return count == 0 ? Double.NaN : sorted[(int) Math.min(count - 1, Math.floor(share * count))];
  }

  int count() {
    return count;
  }

  @Override
  public String toString() {
    return "p50 %.1f ms, p99 %.1f ms, %d runs".formatted(quantile(0.5), quantile(0.99), count);
  }
}
