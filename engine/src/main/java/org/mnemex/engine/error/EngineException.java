package org.mnemex.engine.error;

import org.jspecify.annotations.Nullable;

/** What can go wrong in the engine, apart from programming errors. */
public abstract class EngineException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  protected EngineException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }
}
