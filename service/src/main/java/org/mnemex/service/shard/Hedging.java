package org.mnemex.service.shard;

import java.util.concurrent.TimeUnit;

/**
 * How much may be asked of a second node. It is counted as time and not as calls: few searches take
 * most of the time, and these would be asked twice.
 */
final class Hedging {
  /** Of the time that nodes take to answer, this much. */
  private static final double SHARE = 0.05;

  private static final double MAX_NANOS = TimeUnit.SECONDS.toNanos(1);

  private double allowed;

  Hedging() {
    this(MAX_NANOS);
  }

  /**
   * @param allowed how many nanoseconds a second node may be asked for now
   */
  Hedging(double allowed) {
    this.allowed = allowed;
  }

  /** Notes how long a node took to answer. */
  synchronized void answered(long nanos) {
    allowed = Math.min(MAX_NANOS, allowed + SHARE * nanos);
  }

  /**
   * Whether one more call may be asked of a second node.
   *
   * @param nanos how long it will take
   */
  synchronized boolean mayAskTwice(long nanos) {
    boolean may = allowed >= nanos;
    allowed -= may ? nanos : 0;
    return may;
  }
}
