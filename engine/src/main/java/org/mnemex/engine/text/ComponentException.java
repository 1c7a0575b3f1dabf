package org.mnemex.engine.text;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.EngineException;

/** A step of a chain that does not exist, or does not take what it was given. */
public final class ComponentException extends EngineException {
  private static final long serialVersionUID = 1L;
  private final String component;
  private final @Nullable String suggestion;

  ComponentException(String component, String message, @Nullable String suggestion) {
    super(message, null);
    this.component = component;
    this.suggestion = suggestion;
  }

  /** The step's name as it was given. */
  public String component() {
    return component;
  }

  /** What was likely meant. */
  public @Nullable String suggestion() {
    return suggestion;
  }
}
