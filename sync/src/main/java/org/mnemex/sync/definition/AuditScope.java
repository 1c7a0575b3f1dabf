package org.mnemex.sync.definition;

/** What an audit looks at. */
public sealed interface AuditScope {
  /** Every record. */
  record All() implements AuditScope {}

  /**
   * As many records, picked at random, as are needed to notice with a confidence of 95% if more
   * than a share of them differs.
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

    /** How many records that are: none of so many differs by chance in 5% of all cases. */
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
