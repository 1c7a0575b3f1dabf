package org.mnemex.engine.text;

import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * A step of a chain as a definition names it.
 *
 * @param name {@code lowercase}
 * @param options texts by name; {@link #MAIN} is what stands after the name itself, as in {@code
 *     stop: english}
 */
public record ComponentSpec(String name, Map<String, List<String>> options) {
  /** The option that stands after the name. */
  public static final String MAIN = "";

  public ComponentSpec {
    options = Collections.unmodifiableMap(new LinkedHashMap<>(options));
  }

  /** A step without options. */
  public static ComponentSpec of(String name) {
    return new ComponentSpec(name, Map.of());
  }

  /** A step with its main option. */
  public static ComponentSpec of(String name, String... values) {
    return new ComponentSpec(name, Map.of(MAIN, List.of(values)));
  }

  /** As a definition writes it, in one line of YAML. */
  public String yaml() {
    if (options.isEmpty()) {
      return name;
    }
    if (options.keySet().equals(Set.of(MAIN))) {
      return "{" + name + ": " + flow(options.getOrDefault(MAIN, List.of())) + "}";
    }
    StringBuilder out = new StringBuilder("{").append(name).append(": {");
    String separator = "";
    for (Map.Entry<String, List<String>> option : options.entrySet()) {
      out.append(separator).append(option.getKey()).append(": ").append(flow(option.getValue()));
      separator = ", ";
    }
    return out.append("}}").toString();
  }

  private static String flow(List<String> values) {
    return values.size() == 1
        ? quoted(values.getFirst())
        : values.stream().map(ComponentSpec::quoted).collect(Collectors.joining(", ", "[", "]"));
  }

  private static String quoted(String value) {
    return value.matches("[A-Za-z0-9_]+") ? value : "'" + value.replace("'", "''") + "'";
  }
}
