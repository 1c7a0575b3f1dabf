package org.mnemex.grammar;

import java.util.Comparator;
import org.jspecify.annotations.Nullable;

/**
 * A problem in a definition, and where it is.
 *
 * @param file name of the file
 * @param line line of the problem, from 1
 * @param column column of the problem, from 1
 * @param key keys that lead to the place, joined by dots; empty for a whole file
 * @param detail what was found and what was expected
 * @param suggestion what was probably meant, or null
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
