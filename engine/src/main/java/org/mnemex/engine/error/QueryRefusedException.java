package org.mnemex.engine.error;

import org.jspecify.annotations.Nullable;

/**
 * A query that the engine refuses: a field lacks a use, or a limit is exceeded. The message says
 * which and what to do.
 */
public final class QueryRefusedException extends EngineException {
  private static final long serialVersionUID = 1L;

  public QueryRefusedException(String message) {
    this(message, null);
  }

  public QueryRefusedException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
