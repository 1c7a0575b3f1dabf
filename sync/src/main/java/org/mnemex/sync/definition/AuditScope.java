package org.mnemex.sync.definition;

/** The scope of an audit. */
public sealed interface AuditScope {
  /** Every record. */
  record All() implements AuditScope {}

  /**
   * A random sample, large enough to notice with 95% confidence if more than a share of records
   * differs.
   *
   * @param share above 0, below 1
   */
  record Sample(double share) implements AuditScope {
    private static final double CONFIDENCE = 0.95;

    public Sample {
      if (!(share > 0 && share < 1)) {
        throw new IllegalArgumentException("a share is above 0 and below 1");
      }
    }

    /** The sample size: the smallest n with (1 − share)ⁿ ≤ 0.05. */
    public int size() {
      return (int) Math.min(1_000_000, Math.ceil(Math.log(1 - CONFIDENCE) / Math.log1p(-share)));
    }
  }

  /**
   * One record.
   *
   * @param text its key, as documents have it
   */
  record Key(String text) implements AuditScope {}
}
