package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What applying some definitions would do.
 *
 * @param plan a name for exactly this, to be given to {@link MnemexClient#apply}
 * @param cost what it takes altogether: at once, from stored or from database; null if nothing
 * @param changes definition by definition; those that stay the same are left out
 * @param warnings what is allowed and mostly a mistake
 */
public record PlannedChanges(
    String plan, @Nullable String cost, List<PlannedChange> changes, List<Warning> warnings) {
  /**
   * What becomes of a definition.
   *
   * @param change new or changed
   * @param cost of an index: what it takes; null if nothing
   */
  public record PlannedChange(
      String kind,
      String name,
      String change,
      int version,
      @Nullable String cost,
      List<Difference> differences,
      @Nullable Estimate estimate) {}

  /** Something that differs, what it takes and why. */
  public record Difference(String path, String cost, String reason) {}

  /**
   * What a new edition takes.
   *
   * @param seconds null if no rate was measured yet
   * @param basis where the rate comes from
   */
  public record Estimate(
      long records, @Nullable Long seconds, long bytes, long databaseReads, String basis) {}

  /** What is allowed and mostly a mistake. */
  public record Warning(String about, String detail) {}
}
