package org.mnemex.grammar;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The kinds of definitions. Each may only refer to kinds that come before it. */
public enum DefinitionKind {
  SOURCE,
  ANALYSER,
  SYNONYMS,
  INDEX,
  PHRASES,
  ENDPOINT,
  CURATION,
  SCORECARD;

  /** The first key of a definition of this kind, and its name everywhere else. */
  @JsonValue
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** The kind that a word names, or null. */
  public static @Nullable DefinitionKind of(String word) {
    return Stream.of(values()).filter(kind -> kind.word().equals(word)).findFirst().orElse(null);
  }

  /** The words of all kinds, in order. */
  public static List<String> words() {
    return Stream.of(values()).map(DefinitionKind::word).toList();
  }

  /**
   * All kinds in a sentence: "source, analyser, synonyms, index, phrases, endpoint, curation or
   * scorecard".
   */
  static String inWords() {
    List<String> words = words();
    return words.stream().limit(words.size() - 1L).collect(Collectors.joining(", "))
        + " or "
        + words.getLast();
  }

  @Override
  public String toString() {
    return word();
  }
}
