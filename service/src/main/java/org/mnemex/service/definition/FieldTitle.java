package org.mnemex.service.definition;

import java.util.Locale;

/** What people read in the place of a name that has no title: {@code height_cm} as Height cm. */
public final class FieldTitle {
  private FieldTitle() {}

  /** The name with spaces and a capital letter. */
  public static String of(String name) {
    String words = name.replace('_', ' ').replace('-', ' ').strip();
    return words.isEmpty()
        ? name
        : words.substring(0, 1).toUpperCase(Locale.ROOT) + words.substring(1);
  }
}
