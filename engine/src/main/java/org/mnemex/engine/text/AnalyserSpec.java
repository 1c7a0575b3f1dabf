package org.mnemex.engine.text;

import java.util.List;

/**
 * A chain as a definition writes it.
 *
 * @param text what is done to the text before it is cut
 * @param tokeniser what cuts it
 * @param filters what is done to the tokens
 */
public record AnalyserSpec(
    List<ComponentSpec> text, ComponentSpec tokeniser, List<ComponentSpec> filters) {
  public AnalyserSpec {
    text = List.copyOf(text);
    filters = List.copyOf(filters);
  }

  /** The definition of an analyser of this chain. */
  public String yaml(String name) {
    StringBuilder out = new StringBuilder("analyser: ").append(name).append('\n');
    if (!text.isEmpty()) {
      out.append("text:\n");
      text.forEach(step -> out.append("  - ").append(step.yaml()).append('\n'));
    }
    out.append("tokeniser: ").append(tokeniser.yaml()).append('\n');
    if (!filters.isEmpty()) {
      out.append("filters:\n");
      filters.forEach(step -> out.append("  - ").append(step.yaml()).append('\n'));
    }
    return out.toString();
  }
}
