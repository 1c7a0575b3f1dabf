package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What applying some definitions would do.
 *
 * @param plan identifier of this plan, for {@link MnemexClient#apply}
 * @param cost what it takes altogether: at once, from stored or from database; null if nothing
 * @param changes changes by definition; unchanged definitions are left out
 * @param warnings what is allowed but usually a mistake
 */
public record PlannedChanges(
    String plan, @Nullable String cost, List<PlannedChange> changes, List<Warning> warnings) {
  /**
   * What happens to a definition.
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

  /** One difference, its cost and the reason. */
  public record Difference(String path, String cost, String reason) {}

  /**
   * What a new edition takes.
   *
   * @param seconds null if no rate has been measured yet
   * @param basis where the rate comes from
   */
  public record Estimate(
      long records, @Nullable Long seconds, long bytes, long databaseReads, String basis) {}

  /** Something that is allowed but usually a mistake. */
  public record Warning(String about, String detail) {}
}
