package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.phrase.Phrases.Phrase;

/** Reads a definition of phrases. */
final class PhrasesReader {
  private static final int MAX_PHRASES = 100_000;
  private static final int MAX_LENGTH = 200;

  private final YamlMap map;
  private final String name;

  PhrasesReader(YamlMap map, String name) {
    this.map = map;
    this.name = name;
  }

  PhrasesDefinition read() {
    List<Phrase> phrases = new ArrayList<>();
    YamlMap weights = map.mapOrNull("weights");
    if (weights != null) {
      weights.each(
          phrase -> phrases.add(phrase("weights", phrase, weights.numberOr(phrase, 1), phrase)));
    }
    String lines = map.textOr("lines", null);
    if (lines != null) {
      lines
          .lines()
          .map(String::strip)
          .filter(line -> !line.isEmpty() && !line.startsWith("#"))
          .forEach(line -> phrases.add(line(line)));
    }
    PhrasesDefinition.FromIndex from = from();
    if (from == null == phrases.isEmpty()) {
      throw map.problem(
          "phrases",
          "phrases come from a list ('weights', 'lines' or 'file') or from an 'index', one of them",
          null);
    }
    if (phrases.size() > MAX_PHRASES) {
      throw map.problem(
          "phrases",
          "there are at most %,d phrases, not %,d; take more from an index"
              .formatted(MAX_PHRASES, phrases.size()),
          null);
    }
    return new PhrasesDefinition(name, Phrases.of(phrases), from);
  }

  private PhrasesDefinition.@Nullable FromIndex from() {
    if (!map.has("index")) {
      for (String key : List.of("field", "weight")) {
        if (map.has(key)) {
          throw map.problem(key, "only phrases of an index have a '%s'".formatted(key), null);
        }
      }
      return null;
    }
    return new PhrasesDefinition.FromIndex(
        map.text("index"), map.text("field"), map.textOr("weight", null));
  }

  /** A weight stands after the last equals sign. */
  private Phrase line(String line) {
    int equals = line.lastIndexOf('=');
    if (equals < 0) {
      return phrase("lines", line, 1, line);
    }
    try {
      double weight = Double.parseDouble(line.substring(equals + 1).strip());
      return phrase("lines", line.substring(0, equals).strip(), weight, line);
    } catch (NumberFormatException e) {
      throw map.problem(
          "lines",
          "'%s': a number is wanted after the equals sign, as in rose walk = 5".formatted(line),
          null);
    }
  }

  private Phrase phrase(String key, String text, double weight, String written) {
    boolean readable = text.codePoints().anyMatch(Character::isLetterOrDigit);
    if (!readable || text.length() > MAX_LENGTH || !(weight >= 0 && weight <= Float.MAX_VALUE)) {
      throw map.problem(
          key,
          "'%s' is no phrase of 1 to %d characters with a weight from 0"
              .formatted(YamlMap.shown(written), MAX_LENGTH),
          null);
    }
    return new Phrase(text, weight);
  }
}
