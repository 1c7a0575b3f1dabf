package org.mnemex.client;

import org.jspecify.annotations.Nullable;

/**
 * The result of pushing many records.
 *
 * @param taken how many were accepted
 * @param refused how many were refused
 * @param position pass it to {@link SearchQuery#trueFor} to find them in their new state
 */
public record Pushed(long taken, long refused, @Nullable String position) {
  /** With what was pushed after it. */
  Pushed plus(Pushed next) {
    return new Pushed(
        taken + next.taken,
        refused + next.refused,
        next.position == null ? position : next.position);
  }
}
