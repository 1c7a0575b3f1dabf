package org.mnemex.bench;

import java.util.Arrays;

/** Durations of repeated runs. Thread-safe. */
public final class Times {
  private double[] millis = new double[256];
  private int count;

  /** Adds one. */
  public synchronized void add(long nanos) {
    if (count == millis.length) {
      millis = Arrays.copyOf(millis, 2 * count);
    }
    millis[count++] = nanos / 1e6;
  }

  /** The duration that a share of the runs did not exceed, in milliseconds. */
  public synchronized double quantile(double share) {
    double[] sorted = Arrays.copyOf(millis, count);
    Arrays.sort(sorted);
    return count == 0 ? Double.NaN : sorted[(int) Math.min(count - 1, Math.floor(share * count))];
  }

  /** How many there are. */
  public synchronized int count() {
    return count;
  }

  @Override
  public synchronized String toString() {
    return "p50 %.1f ms, p99 %.1f ms, %d runs".formatted(quantile(0.5), quantile(0.99), count);
  }
}
