package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionProblem;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;

/**
 * A YAML mapping that knows its place in the file. Readers ask for the keys they know, and {@link
 * #finish} refuses the rest. The grammar has already checked keys, types and words; this class
 * reports what a grammar cannot express.
 */
final class YamlMap {
  private static final int MAX_KEY = 200;

  private final String file;
  private final List<String> path;
  private final Node node;
  private final Map<String, Node> values = new LinkedHashMap<>();
  private final Map<String, Node> keys = new LinkedHashMap<>();
  private final Set<String> asked = new LinkedHashSet<>();

  YamlMap(String file, List<String> path, Node node) {
    this.file = file;
    this.path = path;
    this.node = node;
    if (!(node instanceof MappingNode mapping)) {
      throw problem(node, path, "expected keys with values here", null);
    }
    for (NodeTuple tuple : mapping.getValue()) {
      if (!(tuple.getKeyNode() instanceof ScalarNode key)) {
        throw problem(tuple.getKeyNode(), path, "a key must be a word", null);
      }
      if (key.getValue().length() > MAX_KEY) {
        throw problem(
            key,
            path(shown(key.getValue())),
            "a key has at most %,d characters".formatted(MAX_KEY),
            null);
      }
      if (values.put(key.getValue(), tuple.getValueNode()) != null) {
        throw problem(key, path(key.getValue()), "this key stands twice", null);
      }
      keys.put(key.getValue(), key);
    }
  }

  /** The beginning of a user's text, for messages. */
  static String shown(String text) {
    return text.length() <= 60 ? text : text.substring(0, 60) + "…";
  }

  /** The keys in order; all of them count as read. */
  Set<String> allKeys() {
    asked.addAll(values.keySet());
    return values.keySet();
  }

  /**
   * Runs an action for each key, in order.
   *
   * @throws DefinitionException with the problems of all keys
   */
  void each(Consumer<String> work) {
    Collected problems = new Collected();
    for (String key : allKeys()) {
      problems.run(() -> work.accept(key));
    }
    problems.throwIfAny();
  }

  boolean has(String key) {
    asked.add(key);
    return values.containsKey(key);
  }

  /** The text under a required key. */
  String text(String key) {
    String text = textOr(key, null);
    if (text == null) {
      throw problem(node, path(key), "this key is missing", null);
    }
    return text;
  }

  /** The text under a key, or {@code otherwise} if it is not there. */
  @Nullable String textOr(String key, @Nullable String otherwise) {
    Node value = value(key);
    if (value == null) {
      return otherwise;
    }
    return scalar(value, path(key));
  }

  /** One of some words. */
  String wordOr(String key, String otherwise, Set<String> words) {
    String word = textOr(key, otherwise);
    if (word == null || !words.contains(word)) {
      throw problem(
          value(key),
          path(key),
          "'" + word + "' is none of " + String.join(", ", words.stream().sorted().toList()),
          NearestName.to(String.valueOf(word), words));
    }
    return word;
  }

  int integerOr(String key, int otherwise, int least, int most) {
    Node value = value(key);
    if (value == null) {
      return otherwise;
    }
    String text = scalar(value, path(key));
    try {
      int number = Integer.parseInt(text);
      if (number >= least && number <= most) {
        return number;
      }
    } catch (NumberFormatException e) {
      // Said below.
    }
    throw problem(
        value,
        path(key),
        "'%s' is not a whole number from %d to %d".formatted(text, least, most),
        null);
  }

  double numberOr(String key, double otherwise) {
    Node value = value(key);
    if (value == null) {
      return otherwise;
    }
    String text = scalar(value, path(key));
    try {
      double number = Double.parseDouble(text);
      if (number > 0 && number <= 1000) {
        return number;
      }
    } catch (NumberFormatException e) {
      // Said below.
    }
    throw problem(value, path(key), "'" + text + "' is not a number above 0 and up to 1000", null);
  }

  boolean booleanOr(String key, boolean otherwise) {
    Node value = value(key);
    if (value == null) {
      return otherwise;
    }
    String text = scalar(value, path(key));
    return switch (text) {
      case "true" -> true;
      case "false" -> false;
      default -> throw problem(value, path(key), "'" + text + "' is neither true nor false", null);
    };
  }

  /** A list of texts; a single text counts as a list of one. */
  List<String> texts(String key) {
    List<String> texts = new ArrayList<>();
    for (Node item : items(key)) {
      texts.add(scalar(item, path(key)));
    }
    return texts;
  }

  /** The texts of an item of a list that is a list itself, or of a single text. */
  List<String> textsOf(Node item, String key) {
    List<Node> nodes = item instanceof SequenceNode inner ? inner.getValue() : List.of(item);
    return nodes.stream().map(node -> scalar(node, path(key))).toList();
  }

  /** The items of a list, or a single value as a list of one; empty if the key is missing. */
  List<Node> items(String key) {
    Node value = value(key);
    if (value == null) {
      return List.of();
    }
    return value instanceof SequenceNode sequence ? sequence.getValue() : List.of(value);
  }

  /** The mapping under a required key. */
  YamlMap map(String key) {
    YamlMap map = mapOrNull(key);
    if (map == null) {
      throw problem(node, path(key), "this key is missing", null);
    }
    return map;
  }

  @Nullable YamlMap mapOrNull(String key) {
    Node value = value(key);
    return value == null ? null : new YamlMap(file, path(key), value);
  }

  /** The raw value under a key, or null. */
  @Nullable Node value(String key) {
    asked.add(key);
    return values.get(key);
  }

  /** Refuses keys that were not read. */
  void finish() {
    for (Map.Entry<String, Node> entry : keys.entrySet()) {
      if (!asked.contains(entry.getKey())) {
        throw problem(
            entry.getValue(),
            path(entry.getKey()),
            "unknown key '" + entry.getKey() + "'",
            NearestName.to(entry.getKey(), asked));
      }
    }
  }

  String scalar(Node value, List<String> at) {
    if (value instanceof ScalarNode scalar) {
      return scalar.getValue();
    }
    throw problem(value, at, "expected a single value here", null);
  }

  YamlMap mapOf(Node value, String key) {
    return new YamlMap(file, path(key), value);
  }

  List<String> path(String key) {
    List<String> longer = new ArrayList<>(path);
    longer.add(key);
    return longer;
  }

  /** A problem with the value under a key, or with the mapping if the key is missing. */
  DefinitionException problem(String key, String detail, @Nullable String suggestion) {
    return problem(values.getOrDefault(key, node), path(key), detail, suggestion);
  }

  /** A problem with a nested value. */
  DefinitionException problemAt(Node at, String key, String detail, @Nullable String suggestion) {
    return problem(at, path(key), detail, suggestion);
  }

  private DefinitionException problem(
      @Nullable Node at, List<String> where, String detail, @Nullable String suggestion) {
    Mark mark = (at == null ? node : at).getStartMark().orElseThrow();
    return new DefinitionException(
        List.of(
            new DefinitionProblem(
                file,
                mark.getLine() + 1,
                mark.getColumn() + 1,
                String.join(".", where),
                detail,
                suggestion)));
  }
}
