package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.AnalyserSpec;
import org.mnemex.engine.text.ComponentException;
import org.mnemex.engine.text.ComponentSpec;
import org.mnemex.engine.text.Components;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;

/**
 * Reads an analyser definition. The engine knows the steps and their options; this class knows how
 * they are written: {@code fold}, {@code {stop: english}}, {@code {stop: [de, la]}}, {@code
 * {prefixes: {min: 2, max: 10}}}.
 */
final class AnalyserReader {
  private final YamlMap map;
  private final String name;
  private final Map<ComponentSpec, Node> places = new LinkedHashMap<>();

  AnalyserReader(YamlMap map, String name) {
    this.map = map;
    this.name = name;
  }

  Analyser read() {
    if (Components.analysers().containsKey(name)) {
      throw map.problem(
          "analyser", "'" + name + "' is built in; choose another name for your own", null);
    }
    List<ComponentSpec> text = steps("text");
    Node tokeniser = map.value("tokeniser");
    if (tokeniser == null) {
      throw map.problem("tokeniser", "this key is missing", null);
    }
    List<ComponentSpec> filters = new ArrayList<>();
    ComponentSpec cuts = step(tokeniser, "tokeniser");
    filters.addAll(steps("filters"));
    try {
      return Components.analyser(name, new AnalyserSpec(text, cuts, filters));
    } catch (ComponentException e) {
      for (Map.Entry<ComponentSpec, Node> place : places.entrySet()) {
        if (place.getKey().name().equals(e.component())) {
          throw map.problemAt(
              place.getValue(), e.component(), String.valueOf(e.getMessage()), e.suggestion());
        }
      }
      throw map.problem("filters", String.valueOf(e.getMessage()), e.suggestion());
    }
  }

  private List<ComponentSpec> steps(String key) {
    List<ComponentSpec> steps = new ArrayList<>();
    for (Node item : map.items(key)) {
      steps.add(step(item, key));
    }
    return steps;
  }

  private ComponentSpec step(Node item, String key) {
    ComponentSpec spec;
    if (item instanceof ScalarNode scalar) {
      spec = ComponentSpec.of(scalar.getValue());
    } else {
      YamlMap step = map.mapOf(item, key);
      String component = step.allKeys().stream().findFirst().orElse("");
      if (step.allKeys().size() != 1) {
        throw step.problem(component, "a step is one name with its options", null);
      }
      Node value = step.value(component);
      Map<String, List<String>> options = new LinkedHashMap<>();
      if (value instanceof MappingNode) {
        YamlMap given = step.map(component);
        given.allKeys().forEach(option -> options.put(option, given.texts(option)));
      } else if (value instanceof SequenceNode || value instanceof ScalarNode) {
        options.put(ComponentSpec.MAIN, step.texts(component));
      }
      spec = new ComponentSpec(component, options);
    }
    places.putIfAbsent(spec, item);
    return spec;
  }
}
