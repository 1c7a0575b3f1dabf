package org.mnemex.engine.error;

import org.jspecify.annotations.Nullable;

/** A query, filter, facet or sort names a field that the index does not have. */
public final class UnknownFieldException extends EngineException {
  private static final long serialVersionUID = 1L;
  private final String field;
  private final @Nullable String suggestion;

  public UnknownFieldException(String field, @Nullable String suggestion) {
    super(
        "unknown field '"
            + field
            + "'"
            + (suggestion == null ? "" : "; did you mean '" + suggestion + "'?"),
        null);
    this.field = field;
    this.suggestion = suggestion;
  }

  public String field() {
    return field;
  }

  public @Nullable String suggestion() {
    return suggestion;
  }
}
