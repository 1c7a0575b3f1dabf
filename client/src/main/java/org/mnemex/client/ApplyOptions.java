package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * How definitions are applied.
 *
 * @param prepare whether what they need in databases may be made there
 * @param plan the plan that was approved; null to apply whatever that takes
 * @param hold whether new editions wait for approval when they are complete
 */
public record ApplyOptions(boolean prepare, @Nullable String plan, boolean hold) {
  /** Applies at any cost, promotes automatically, prepares no database. */
  public static final ApplyOptions USUAL = new ApplyOptions(false, null, false);
}
