package org.mnemex.sync.definition;

import java.time.format.DateTimeFormatter;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** The formatters of patterns: making one takes far longer than parsing a value with it. */
final class DatePatterns {
  /** There are no more than steps in definitions. */
  private static final Map<String, DateTimeFormatter> KNOWN = new ConcurrentHashMap<>();

  private DatePatterns() {}

  /**
   * The formatter of a pattern, with English names.
   *
   * @throws IllegalArgumentException if it is no pattern
   */
  static DateTimeFormatter formatter(String pattern) {
    return KNOWN.computeIfAbsent(
        pattern, letters -> DateTimeFormatter.ofPattern(letters, Locale.ENGLISH));
  }
}
