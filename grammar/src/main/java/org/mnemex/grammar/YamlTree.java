package org.mnemex.grammar;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;
import org.snakeyaml.engine.v2.nodes.Tag;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/** A YAML document as JSON, by the core schema of YAML 1.2, with the place of every value. */
final class YamlTree {
  private static final int MAX_KEY = 200;

  /** References may repeat their targets, nested, until memory is exhausted. */
  private static final int MAX_VALUES = 500_000;

  private static final JsonNodeFactory JSON = JsonNodeFactory.instance;

  private final Map<List<String>, Node> values = new HashMap<>();
  private final Map<List<String>, Node> keys = new HashMap<>();
  private final List<BadKey> badKeys = new ArrayList<>();
  private final JsonNode json;
  private int count;

  /** A key that JSON does not allow, or a duplicate. */
  record BadKey(Node node, String path, String detail) {}

  /** A definition exceeds the limit. */
  static final class TooLargeException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    TooLargeException() {
      super("a definition has at most %,d values".formatted(MAX_VALUES));
    }
  }

  private YamlTree(Node root) {
    this.json = json(root, List.of());
  }

  /**
   * Reads a tree.
   *
   * @throws TooLargeException if there is too much in it
   */
  static YamlTree of(Node root) {
    return new YamlTree(root);
  }

  JsonNode json() {
    return json;
  }

  List<BadKey> badKeys() {
    return badKeys;
  }

  /** The value at a path, or the mapping that lacks the last key of the path. */
  Node node(List<String> path) {
    Node value = values.get(path);
    return value == null ? values.get(path.subList(0, path.size() - 1)) : value;
  }

  /** The node of a key, in the mapping at a path. */
  Node key(List<String> path) {
    return Objects.requireNonNull(keys.get(path));
  }

  private JsonNode json(Node node, List<String> path) {
    if (++count > MAX_VALUES) {
      throw new TooLargeException();
    }
    values.put(path, node);
    return switch (node) {
      case MappingNode mapping -> object(mapping, path);
      case SequenceNode sequence -> {
        ArrayNode array = JSON.arrayNode();
        for (Node item : sequence.getValue()) {
          array.add(json(item, with(path, String.valueOf(array.size()))));
        }
        yield array;
      }
      case ScalarNode scalar -> value(scalar);
      default -> JSON.nullNode();
    };
  }

  private ObjectNode object(MappingNode mapping, List<String> path) {
    ObjectNode object = JSON.objectNode();
    for (NodeTuple tuple : mapping.getValue()) {
      Node node = tuple.getKeyNode();
      if (!(node instanceof ScalarNode scalar)) {
        badKeys.add(new BadKey(node, dotted(path), "a key must be a single word"));
        continue;
      }
      String key = scalar.getValue();
      List<String> at = with(path, key);
      if (key.length() > MAX_KEY) {
        badKeys.add(
            new BadKey(
                node,
                dotted(with(path, ParsedFile.shown(key))),
                "a key has at most %,d characters, not %,d".formatted(MAX_KEY, key.length())));
      } else if (object.has(key)) {
        badKeys.add(new BadKey(node, dotted(at), "this key appears twice"));
      } else {
        keys.put(at, node);
        object.set(key, json(tuple.getValueNode(), at));
      }
    }
    return object;
  }

  static List<String> with(List<String> path, String step) {
    List<String> longer = new ArrayList<>(path);
    longer.add(step);
    return longer;
  }

  /** A path as people read it: the keys, without positions in lists. */
  static String dotted(List<String> path) {
    return String.join(".", path.stream().filter(step -> !step.matches("\\d+")).toList());
  }

  private static JsonNode value(ScalarNode scalar) {
    String text = scalar.getValue();
    Tag tag = scalar.getTag();
    if (tag.equals(Tag.BOOL)) {
      return JSON.booleanNode(Boolean.parseBoolean(text));
    }
    try {
      if (tag.equals(Tag.INT)) {
        return JSON.numberNode(Long.parseLong(text));
      }
      if (tag.equals(Tag.FLOAT)) {
        return JSON.numberNode(Double.parseDouble(text));
      }
    } catch (NumberFormatException e) {
      return JSON.stringNode(text);
    }
    return tag.equals(Tag.NULL) ? JSON.nullNode() : JSON.stringNode(text);
  }
}
