package org.mnemex.sync.definition;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A definition that cannot work, found by comparing it with itself or with the database. */
public final class InvalidDefinitionException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final transient List<String> path;
  private final @Nullable String suggestion;

  /**
   * @param path the keys that lead to what is wrong, outermost first
   * @param what a sentence without the place
   * @param suggestion what was likely meant, or null
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
