package org.mnemex.grammar;

import java.util.Comparator;
import org.jspecify.annotations.Nullable;

/**
 * What is wrong with a definition, and where.
 *
 * @param line from 1
 * @param column from 1
 * @param key the keys that lead there, joined by dots; empty for a whole file
 * @param suggestion what was likely meant, or null
 */
public record DefinitionProblem(
    String file, int line, int column, String key, String detail, @Nullable String suggestion) {
  /** In the order of a file's text. */
  public static final Comparator<DefinitionProblem> BY_PLACE =
      Comparator.comparingInt(DefinitionProblem::line).thenComparingInt(DefinitionProblem::column);

  @Override
  public String toString() {
    return "%s:%d:%d: %s%s%s"
        .formatted(
            file,
            line,
            column,
            key.isEmpty() ? "" : key + ": ",
            detail,
            suggestion == null ? "" : "; did you mean '" + suggestion + "'?");
  }
}
