package org.mnemex.engine.query;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.EngineException;

/** A filter with a syntax error: its place and, if there is one, a suggestion. */
public final class FilterSyntaxException extends EngineException {
  private static final long serialVersionUID = 1L;
  private final int line;
  private final int column;
  private final @Nullable String suggestion;

  FilterSyntaxException(int line, int column, String what, @Nullable String suggestion) {
    super(
        "line %d, column %d: %s%s"
            .formatted(
                line,
                column,
                what,
                suggestion == null ? "" : "; did you mean '" + suggestion + "'?"),
        null);
    this.line = line;
    this.column = column;
    this.suggestion = suggestion;
  }

  /** From 1. */
  public int line() {
    return line;
  }

  /** From 1, in UTF-16 units. */
  public int column() {
    return column;
  }

  public @Nullable String suggestion() {
    return suggestion;
  }
}
