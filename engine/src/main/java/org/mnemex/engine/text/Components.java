package org.mnemex.engine.text;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import opennlp.tools.stemmer.snowball.SnowballStemmer;
import org.jspecify.annotations.Nullable;

/** The tokenisers, token filters and analysers that definitions can name. */
public final class Components {
  private static final Map<String, Tokeniser> TOKENISERS =
      Map.of("words", new WordsTokeniser(), "whole", new WholeTokeniser());

  private static final Map<String, TokenFilter> PLAIN =
      Map.of(
          "lowercase", new CaseFilter(),
          "fold", new FoldFilter(),
          "elide", new ElideFilter(),
          "possessive", new PossessiveFilter());

  private static final Map<String, TokenFilter> STEMMERS =
      Map.of(
          "english", new StemFilter("english", SnowballStemmer.ALGORITHM.ENGLISH),
          "french", new StemFilter("french", SnowballStemmer.ALGORITHM.FRENCH),
          "german", new StemFilter("german", SnowballStemmer.ALGORITHM.GERMAN));

  private static final Map<String, Analyser> ANALYSERS = builtIn();

  private Components() {}

  /** Names of all tokenisers. */
  public static Set<String> tokenisers() {
    return TOKENISERS.keySet();
  }

  /** The tokeniser of that name, or null if there is none. */
  public static @Nullable Tokeniser tokeniser(String name) {
    return TOKENISERS.get(name);
  }

  /** Names of all token filters. */
  public static Set<String> filters() {
    Set<String> all = new java.util.TreeSet<>(PLAIN.keySet());
    all.add("stop");
    all.add("stem");
    return all;
  }

  /** Names of the filters that take no option. */
  public static Set<String> plainFilters() {
    return PLAIN.keySet();
  }

  /** A filter without option, or null if there is none of that name. */
  public static @Nullable TokenFilter filter(String name) {
    return PLAIN.get(name);
  }

  /** The languages that {@code stop} has a list for. */
  public static Set<String> stopLanguages() {
    return Stopwords.languages();
  }

  /** The built-in stopwords of a language of {@link #stopLanguages()}. */
  public static TokenFilter stop(String language) {
    return new StopFilter("stop: " + language, Stopwords.of(language));
  }

  /** Stopwords that a definition lists itself. */
  public static TokenFilter stop(List<String> words) {
    return new StopFilter("stop: " + words, Set.copyOf(words));
  }

  /** The languages that {@code stem} knows. */
  public static Set<String> stemLanguages() {
    return STEMMERS.keySet();
  }

  /** The stemmer of a language, or null if there is none. */
  public static @Nullable TokenFilter stem(String language) {
    return STEMMERS.get(language);
  }

  /** The analysers that exist without being defined, by name. */
  public static Map<String, Analyser> analysers() {
    return ANALYSERS;
  }

  private static Map<String, Analyser> builtIn() {
    TokenFilter lowercase = PLAIN.get("lowercase");
    TokenFilter fold = PLAIN.get("fold");
    Tokeniser words = TOKENISERS.get("words");
    Map<String, Analyser> all = new TreeMap<>();
    put(all, new Analyser("words", words, List.of(lowercase, fold)));
    put(all, new Analyser("whole", TOKENISERS.get("whole"), List.of(lowercase, fold)));
    put(all, language("english", PLAIN.get("possessive")));
    put(all, language("french", PLAIN.get("elide")));
    put(all, language("german", null));
    return Map.copyOf(all);
  }

  private static Analyser language(String language, @Nullable TokenFilter first) {
    List<TokenFilter> filters = new java.util.ArrayList<>();
    if (first != null) {
      filters.add(first);
    }
    filters.add(PLAIN.get("lowercase"));
    filters.add(PLAIN.get("fold"));
    filters.add(stop(language));
    filters.add(STEMMERS.get(language));
    return new Analyser(language, TOKENISERS.get("words"), filters);
  }

  private static void put(Map<String, Analyser> all, Analyser analyser) {
    all.put(analyser.name(), analyser);
  }
}
