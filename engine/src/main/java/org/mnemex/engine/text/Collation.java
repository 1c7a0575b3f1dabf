package org.mnemex.engine.text;

import com.ibm.icu.text.Collator;
import com.ibm.icu.util.ULocale;
import java.util.Arrays;
import java.util.Map;
import java.util.TreeMap;

/**
 * The sort order of a language (Unicode Technical Standard 10, with the language's tailoring from
 * CLDR).
 */
public final class Collation {
  /** The languages that have an order of their own, by their tags. */
  private static final Map<String, ULocale> LANGUAGES = new TreeMap<>();

  static {
    for (ULocale locale : Collator.getAvailableULocales()) {
      LANGUAGES.put(locale.toLanguageTag(), locale);
    }
  }

  private final Collator collator;

  private Collation(ULocale language) {
    collator = Collator.getInstance(language).freeze();
  }

  /** Whether there is an order for a language. */
  public static boolean has(String language) {
    return LANGUAGES.containsKey(language);
  }

  /**
   * The order of a language.
   *
   * @param language its tag after BCP 47, such as {@code sv}
   * @throws IllegalArgumentException if there is none
   */
  public static Collation of(String language) {
    ULocale locale = LANGUAGES.get(language);
    if (locale == null) {
      throw new IllegalArgumentException(
          "there is no order of names for language '%s'; write a tag such as de, sv or es"
              .formatted(language));
    }
    return new Collation(locale);
  }

  /** Bytes that compare, without signs, as the texts do; safe for several threads. */
  public byte[] key(String text) {
    byte[] key = collator.getCollationKey(text).toByteArray();
    // Without the zero at its end, which says nothing.
    return Arrays.copyOf(key, key.length - 1);
  }
}
