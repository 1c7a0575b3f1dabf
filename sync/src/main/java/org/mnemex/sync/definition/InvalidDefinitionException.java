package org.mnemex.sync.definition;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A definition that contradicts itself or the database. */
public final class InvalidDefinitionException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final transient List<String> path;
  private final @Nullable String suggestion;

  /**
   * @param path the keys that lead to the problem, outermost first
   * @param what a sentence without the place
   * @param suggestion what was probably meant, or null
   */
  public InvalidDefinitionException(List<String> path, String what, @Nullable String suggestion) {
    super(what);
    this.path = List.copyOf(path);
    this.suggestion = suggestion;
  }

  public List<String> path() {
    return path;
  }

  public @Nullable String suggestion() {
    return suggestion;
  }
}
