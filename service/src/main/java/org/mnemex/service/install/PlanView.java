package org.mnemex.service.install;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.sync.change.Difference;

/**
 * What applying some definitions would do.
 *
 * @param plan a name for exactly this; apply with it to have nothing else done
 * @param cost what it takes altogether: at once, from stored or from database; null if nothing
 * @param changes definition by definition; those that stay the same are left out
 * @param warnings what is allowed and mostly a mistake
 */
public record PlanView(
    String plan, @Nullable String cost, List<PlannedChange> changes, List<Warning> warnings) {
  /**
   * What becomes of a definition.
   *
   * @param version the version that it would have
   * @param cost of an index: what it takes; null if nothing
   * @param differences of an index from its edition
   * @param estimate of a new edition, or null
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
   * Something that differs.
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
   * What a new edition takes.
   *
   * @param records how many there are
   * @param seconds how long filling takes; null if no rate was measured yet
   * @param bytes how much disk it takes, beside the live edition
   * @param databaseReads records that are read from the database
   * @param basis where the rate comes from
   */
  public record Estimate(
      long records, @Nullable Long seconds, long bytes, long databaseReads, String basis) {}

  /**
   * What is allowed and mostly a mistake.
   *
   * @param about the definition, like {@code index plants}
   */
  public record Warning(String about, String detail) {}
}
