package org.mnemex.service.install;

import com.github.difflib.DiffUtils;
import com.github.difflib.UnifiedDiffUtils;
import java.util.List;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.service.install.PlanView.PlannedDifference;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.springframework.stereotype.Component;

/** Compares two versions of a definition. */
@Component
public class VersionComparison {
  private static final int CONTEXT_LINES = 2;

  private final DefinitionMapper definitions;
  private final Installation installation;

  VersionComparison(DefinitionMapper definitions, Installation installation) {
    this.definitions = definitions;
    this.installation = installation;
  }

  /**
   * How two versions of a definition differ.
   *
   * @param from the older version
   * @param to the newer version
   * @param differences for an index, what each difference takes and why
   * @param lines the two texts compared, in the unified format (POSIX {@code diff -u})
   */
  public record Compared(
      int from, int to, List<PlannedDifference> differences, List<String> lines) {}

  /**
   * Compares.
   *
   * @throws ProblemException 404 if there is no such version
   */
  public Compared between(DefinitionKind kind, String name, int from, int to) {
    DefinitionRow before = version(kind, name, from);
    DefinitionRow after = version(kind, name, to);
    List<String> lines = before.text().lines().toList();
    return new Compared(
        from,
        to,
        kind == DefinitionKind.INDEX
            ? installation.differences(before, after).stream().map(PlannedDifference::of).toList()
            : List.of(),
        UnifiedDiffUtils.generateUnifiedDiff(
            title(before),
            title(after),
            lines,
            DiffUtils.diff(lines, after.text().lines().toList()),
            CONTEXT_LINES));
  }

  private static String title(DefinitionRow row) {
    return "%s %s, version %d".formatted(row.kind(), row.name(), row.version());
  }

  private DefinitionRow version(DefinitionKind kind, String name, int version) {
    DefinitionRow row = definitions.version(kind, name, version);
    if (row == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_VERSION,
          "there is no version %d of %s '%s'".formatted(version, kind, name));
    }
    return row;
  }
}
