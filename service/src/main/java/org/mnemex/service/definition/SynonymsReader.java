package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.AnalyserSpec;
import org.mnemex.engine.text.ComponentException;
import org.mnemex.engine.text.ComponentSpec;
import org.mnemex.engine.text.Components;
import org.snakeyaml.engine.v2.nodes.Node;

/** Reads a definition of synonyms, and attaches synonyms to analysers. */
final class SynonymsReader {
  private static final int MAX_RULES = 5_000;
  private static final int MAX_PHRASES = 100;
  private static final String ARROW = "=>";

  private final YamlMap map;
  private final String name;

  SynonymsReader(YamlMap map, String name) {
    this.map = map;
    this.name = name;
  }

  SynonymsDefinition read() {
    List<String> rules = new ArrayList<>();
    for (Node item : map.items("two_way")) {
      rules.add(phrases("two_way", map.textsOf(item, "two_way"), 2));
    }
    for (Node item : map.items("one_way")) {
      YamlMap one = map.mapOf(item, "one_way");
      rules.add(
          phrases("one_way", one.texts("words"), 1)
              + " "
              + ARROW
              + " "
              + phrases("one_way", one.texts("find"), 1));
      one.finish();
    }
    String lines = map.textOr("lines", null);
    if (lines != null) {
      lines
          .lines()
          .map(String::strip)
          .filter(line -> !line.isEmpty() && !line.startsWith("#"))
          .forEach(line -> rules.add(rule(line)));
    }
    if (rules.isEmpty() || rules.size() > MAX_RULES) {
      throw map.problem(
          "synonyms", "there are 1 to %,d sets, not %,d".formatted(MAX_RULES, rules.size()), null);
    }
    return new SynonymsDefinition(name, rules);
  }

  private String rule(String line) {
    String[] sides = line.split(ARROW, -1);
    if (sides.length > 2) {
      throw map.problem("lines", "'%s' has more than one arrow".formatted(line), null);
    }
    List<String> checked = new ArrayList<>();
    for (String side : sides) {
      checked.add(phrases("lines", List.of(side.split(",", -1)), sides.length == 1 ? 2 : 1));
    }
    return String.join(" " + ARROW + " ", checked);
  }

  private String phrases(String key, List<String> phrases, int least) {
    List<String> stripped = phrases.stream().map(String::strip).toList();
    if (stripped.size() < least || stripped.size() > MAX_PHRASES) {
      throw map.problem(
          key,
          "%s: %d to %d words or phrases belong together"
              .formatted(String.join(", ", stripped), least, MAX_PHRASES),
          null);
    }
    for (String phrase : stripped) {
      if (phrase.isEmpty() || phrase.contains(",") || phrase.contains(ARROW)) {
        throw map.problem(
            key,
            "'%s' is not a word or phrase: it is empty or has a comma or an arrow"
                .formatted(phrase),
            null);
      }
    }
    return String.join(", ", stripped);
  }

  /**
   * A chain with synonyms as its last step.
   *
   * @throws ComponentException if the rules are too many together
   */
  static Analyser with(Analyser analyser, List<SynonymsDefinition> synonyms) {
    List<String> rules = synonyms.stream().flatMap(one -> one.rules().stream()).toList();
    AnalyserSpec spec = analyser.spec();
    List<ComponentSpec> filters = new ArrayList<>(spec.filters());
    filters.add(new ComponentSpec("synonyms", Map.of(ComponentSpec.MAIN, rules)));
    return Components.analyser(
        analyser.name(), new AnalyserSpec(spec.text(), spec.tokeniser(), filters));
  }
}
