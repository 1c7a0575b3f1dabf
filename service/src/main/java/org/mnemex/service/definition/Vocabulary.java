package org.mnemex.service.definition;

import java.util.Map;
import org.mnemex.engine.text.Analyser;

/**
 * What the text fields of an index may refer to.
 *
 * @param analysers defined analysers by name; the built-in ones are not among them
 * @param synonyms defined synonyms by name
 */
public record Vocabulary(
    Map<String, Analyser> analysers, Map<String, SynonymsDefinition> synonyms) {
  /** Only what is built in. */
  public static final Vocabulary BUILT_IN = new Vocabulary(Map.of(), Map.of());

  public Vocabulary {
    analysers = Map.copyOf(analysers);
    synonyms = Map.copyOf(synonyms);
  }
}
