package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * How definitions are applied.
 *
 * @param prepare whether what they need in databases may be made there
 * @param plan the plan that was agreed to; null to do whatever it takes
 * @param hold whether new editions wait for approval when they are complete
 */
public record ApplyOptions(boolean prepare, @Nullable String plan, boolean hold) {
  /** Whatever it takes, by itself, but nothing in databases. */
  public static final ApplyOptions USUAL = new ApplyOptions(false, null, false);
}
