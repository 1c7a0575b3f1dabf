package org.mnemex.engine.text;

import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import opennlp.tools.stemmer.snowball.SnowballStemmer.ALGORITHM;
import org.jspecify.annotations.Nullable;

/** What is known of languages: stemmers, and which need something of their own. */
final class Languages {
  private static final Map<String, ALGORITHM> STEMMERS =
      new TreeMap<>(
          Map.ofEntries(
              Map.entry("arabic", ALGORITHM.ARABIC),
              Map.entry("catalan", ALGORITHM.CATALAN),
              Map.entry("danish", ALGORITHM.DANISH),
              Map.entry("dutch", ALGORITHM.DUTCH),
              Map.entry("english", ALGORITHM.ENGLISH),
              Map.entry("finnish", ALGORITHM.FINNISH),
              Map.entry("french", ALGORITHM.FRENCH),
              Map.entry("german", ALGORITHM.GERMAN),
              Map.entry("greek", ALGORITHM.GREEK),
              Map.entry("hungarian", ALGORITHM.HUNGARIAN),
              Map.entry("indonesian", ALGORITHM.INDONESIAN),
              Map.entry("irish", ALGORITHM.IRISH),
              Map.entry("italian", ALGORITHM.ITALIAN),
              Map.entry("norwegian", ALGORITHM.NORWEGIAN),
              Map.entry("portuguese", ALGORITHM.PORTUGUESE),
              Map.entry("romanian", ALGORITHM.ROMANIAN),
              Map.entry("russian", ALGORITHM.RUSSIAN),
              Map.entry("spanish", ALGORITHM.SPANISH),
              Map.entry("swedish", ALGORITHM.SWEDISH),
              Map.entry("turkish", ALGORITHM.TURKISH)));

  /** Languages without a stemmer: word breaks, normalisation, stopwords where there are some. */
  private static final Set<String> PLAIN =
      Set.of(
          "bulgarian",
          "chinese",
          "croatian",
          "czech",
          "estonian",
          "hebrew",
          "hindi",
          "icelandic",
          "japanese",
          "korean",
          "latvian",
          "lithuanian",
          "persian",
          "polish",
          "slovak",
          "slovenian",
          "thai",
          "ukrainian",
          "vietnamese");

  /** Languages that drop a vowel before another with an apostrophe. */
  static final Set<String> ELIDING = Set.of("catalan", "french", "irish", "italian");

  private Languages() {}

  static Set<String> withStemmer() {
    return STEMMERS.keySet();
  }

  static Set<String> all() {
    Set<String> all = new TreeSet<>(PLAIN);
    all.addAll(STEMMERS.keySet());
    return all;
  }

  /** Languages whose words are not inflected, so that there is nothing for a stemmer to do. */
  private static final Set<String> UNINFLECTED = Set.of("chinese", "thai", "vietnamese");

  /** Whether words of a language are inflected, and nothing is known of how. */
  static boolean lacksStemmer(String language) {
    return PLAIN.contains(language) && !UNINFLECTED.contains(language);
  }

  static @Nullable ALGORITHM stemmer(String language) {
    return STEMMERS.get(language);
  }
}
