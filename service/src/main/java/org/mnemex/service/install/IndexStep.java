package org.mnemex.service.install;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.sync.change.Cost;
import org.mnemex.sync.change.DefinitionDifferences;
import org.mnemex.sync.change.Difference;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.source.Source;

/**
 * The step that brings an index in line with its definition.
 *
 * @param index as the definition wants it
 * @param differences from the edition that it is compared with; none for a new index
 * @param base that edition: the live one, or else the next one; null for a new index
 */
public record IndexStep(
    RunningIndex index, Action action, List<Difference> differences, @Nullable Edition base) {
  /** A kind of step. */
  enum Action {
    /** The edition adopts the definition. */
    REDEFINE,
    /** A new edition is built. */
    BUILD
  }

  /**
   * Compares an index with its editions.
   *
   * @param sourceText the definition of its source
   */
  static IndexStep of(RunningIndex index, String sourceText, InstallationParts parts) {
    Editions editions = index.editions();
    Edition live = editions.live();
    Edition next = editions.next();
    Edition base = live == null ? next : live;
    if (base == null) {
      return new IndexStep(index, Action.BUILD, List.of(), null);
    }
    List<Difference> differences = differences(index, sourceText, parts, base);
    if (isSmall(differences)) {
      return new IndexStep(index, Action.REDEFINE, differences, base);
    }
    if (next != null && next != base && isSmall(differences(index, sourceText, parts, next))) {
      return new IndexStep(index, Action.REDEFINE, differences, next);
    }
    return new IndexStep(index, Action.BUILD, differences, base);
  }

  private static List<Difference> differences(
      RunningIndex index, String sourceText, InstallationParts parts, Edition edition) {
    List<Difference> all =
        new ArrayList<>(
            DefinitionDifferences.between(
                edition.definition(), index.index(), edition.feed().columns()));
    if (!edition.definition().name().equals(index.index().name())) {
      all.addFirst(
          new Difference(
              "index",
              Cost.AT_ONCE,
              "index '%s' is renamed to '%s'; nothing is rebuilt"
                  .formatted(edition.definition().name(), index.index().name())));
    }
    String source = parts.sourceText(index.index().keptAs(), edition.version());
    if (!source.isEmpty() && !source.equals(sourceText)) {
      all.add(
          new Difference(
              "source",
              Cost.FROM_DATABASE,
              "the definition of source '%s' changed, and it may lead to another database"
                  .formatted(index.index().source())));
    }
    return all;
  }

  private static boolean isSmall(List<Difference> differences) {
    Cost cost = DefinitionDifferences.cost(differences);
    return cost == null || cost == Cost.AT_ONCE;
  }

  /** The cost; null if nothing differs. */
  @Nullable Cost cost() {
    return base == null ? Cost.FROM_DATABASE : DefinitionDifferences.cost(differences);
  }

  boolean needsDatabase() {
    return action == Action.BUILD && cost() == Cost.FROM_DATABASE;
  }

  /**
   * Does it.
   *
   * @param hold whether a new edition waits for approval when it is complete
   * @return the number of the edition that is being built, or null
   */
  @Nullable Integer carryOut(Source source, boolean hold) throws IOException {
    Editions editions = index.editions();
    Edition edition = base;
    if (edition != null && !edition.definition().name().equals(index.index().name())) {
      editions.rename(index.index().name());
    }
    if (action == Action.BUILD || edition == null) {
      FillPlan plan = new FillPlan(cost() == Cost.FROM_STORED, hold);
      return editions.build(index.index(), index.version(), source, plan);
    }
    if (edition == editions.live()) {
      // A pending edition was built for another definition.
      editions.dropNext();
    }
    editions.redefine(edition, index.index(), index.version());
    return null;
  }
}
