package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A problem document (RFC 9457) as the service writes it.
 *
 * @param type stable name of the kind of problem
 * @param detail a sentence for a person
 * @param suggestion what was likely meant
 * @param problems for definitions: every problem with its place
 */
public record Problem(
    @Nullable String type,
    @Nullable String title,
    int status,
    @Nullable String detail,
    @Nullable String suggestion,
    @Nullable List<Place> problems) {
  /** A problem in a definition file; line and column count from 1. */
  public record Place(
      String file, int line, int column, String key, String detail, @Nullable String suggestion) {}
}
