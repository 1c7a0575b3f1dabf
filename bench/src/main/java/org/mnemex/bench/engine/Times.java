package org.mnemex.bench.engine;

import java.lang.management.ManagementFactory;
import java.util.Arrays;

/** Times as benchmarks measure and print them. */
final class Times {
  private Times() {}

  /** Processor time, so that what else the machine does and its disk do not count. */
  static long cpuNanos() {
    return ManagementFactory.getThreadMXBean().getCurrentThreadCpuTime();
  }

  static double millis(Runnable action) {
    long start = System.nanoTime();
    action.run();
    return (System.nanoTime() - start) / 1e6;
  }

  static double seconds(long start) {
    return (System.nanoTime() - start) / 1e9;
  }

  static double median(double[] values) {
    double[] sorted = values.clone();
    Arrays.sort(sorted);
    return sorted[sorted.length / 2];
  }

  static String percentiles(double[] values) {
    double[] sorted = values.clone();
    Arrays.sort(sorted);
    return "p50 %8.3f  p99 %8.3f ms"
        .formatted(sorted[sorted.length / 2], sorted[(int) (sorted.length * 0.99)]);
  }
}
