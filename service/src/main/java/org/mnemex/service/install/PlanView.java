package org.mnemex.service.install;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.sync.change.Difference;

/**
 * What applying definitions would do.
 *
 * @param plan identifier of this plan; pass it to apply so that nothing else is done
 * @param cost what it takes altogether: at once, from stored or from database; null if nothing
 * @param changes changes by definition; unchanged definitions are left out
 * @param warnings what is allowed but usually a mistake
 */
public record PlanView(
    String plan, @Nullable String cost, List<PlannedChange> changes, List<Warning> warnings) {
  /**
   * What happens to a definition.
   *
   * @param kind kind of the definition
   * @param name its name
   * @param change new, changed or same
   * @param version the version that it would have
   * @param cost what an index takes; null if nothing
   * @param differences how an index differs from its edition
   * @param estimate cost of a new edition, or null
   */
  public record PlannedChange(
      DefinitionKind kind,
      String name,
      Applied.Change change,
      int version,
      @Nullable String cost,
      List<PlannedDifference> differences,
      @Nullable Estimate estimate) {}

  /**
   * One difference.
   *
   * @param path keys in the definition
   * @param cost what it takes
   * @param reason why
   */
  public record PlannedDifference(String path, String cost, String reason) {
    static PlannedDifference of(Difference difference) {
      return new PlannedDifference(
          difference.path(), difference.cost().words(), difference.reason());
    }
  }

  /**
   * What a new edition costs.
   *
   * @param records number of records
   * @param seconds how long filling takes; null if no rate has been measured yet
   * @param bytes disk space beside the live edition, in bytes
   * @param databaseReads records that are read from the database
   * @param basis where the rate comes from
   */
  public record Estimate(
      long records, @Nullable Long seconds, long bytes, long databaseReads, String basis) {}

  /**
   * Something that is allowed but usually a mistake.
   *
   * @param about the definition, like {@code index plants}
   * @param detail what is likely wrong, and what to do
   */
  public record Warning(String about, String detail) {}
}
