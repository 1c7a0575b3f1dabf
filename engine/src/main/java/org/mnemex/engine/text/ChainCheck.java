package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;

/** Finds steps that do harm together, or in the wrong order. */
final class ChainCheck {
  private static final Set<String> PIECES = Set.of("prefixes", "ngrams");

  private ChainCheck() {}

  static List<String> warnings(AnalyserSpec spec) {
    List<String> out = new ArrayList<>();
    List<String> names = spec.filters().stream().map(ComponentSpec::name).toList();
    boolean lowered =
        spec.text().stream()
            .anyMatch(step -> step.name().equals("normalise") && step.yaml().contains("fold"));
    int lowercase = lowered ? -1 : names.indexOf("lowercase");
    for (String needs : List.of("stop", "stem", "protect", "keep_words", "synonyms", "compounds")) {
      int at = names.indexOf(needs);
      if (at >= 0 && !lowered && (lowercase < 0 || lowercase > at)) {
        out.add(
            "'%s' compares lower-case words, but 'lowercase' does not come before it: words with"
                    .formatted(needs)
                + " a capital pass it unchanged");
      }
    }
    int stem = names.indexOf("stem");
    if (stem >= 0 && names.indexOf("stop") > stem) {
      out.add("'stop' comes after 'stem' and compares stems, so it misses most of its words");
    }
    if (stem >= 0 && names.indexOf("protect") > stem) {
      out.add("'protect' comes after 'stem', which is too late");
    }
    if (stem >= 0 && names.indexOf("fold") >= 0 && names.indexOf("fold") < stem) {
      out.add(
          "'fold' comes before 'stem': stemmers expect accents and miss some"
              + " endings without them");
    }
    long pieces = names.stream().filter(PIECES::contains).count();
    Stream.concat(Stream.of(spec.tokeniser()), spec.filters().stream())
        .filter(step -> PIECES.contains(step.name()))
        .forEach(
            step -> {
              String min = step.options().getOrDefault("min", List.of("1")).getFirst();
              if (!min.equals("1")) {
                out.add(
                    "'%s' makes no parts of fewer than %s characters: shorter words cannot be found"
                        .formatted(step.name(), min));
              }
            });
    if (pieces > 1) {
      out.add("words are cut into pieces twice, which makes very many terms");
    }
    if (names.indexOf("stem") > 0
        && PIECES.stream().anyMatch(p -> names.contains(p) && names.indexOf(p) < stem)) {
      out.add("'stem' comes after a filter that splits words into parts, which have no stems");
    }
    if (names.contains("word_pairs")
        && names.contains("synonyms")
        && names.indexOf("word_pairs") < names.indexOf("synonyms")) {
      out.add("'synonyms' comes after 'word_pairs' and sees pairs between the words");
    }
    return out;
  }
}
