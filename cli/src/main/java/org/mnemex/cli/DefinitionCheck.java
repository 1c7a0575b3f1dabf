package org.mnemex.cli;

import com.networknt.schema.Error;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import com.networknt.schema.path.NodePath;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import org.apache.commons.text.similarity.LevenshteinDistance;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.Problem;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;
import org.snakeyaml.engine.v2.nodes.Tag;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/**
 * Checks definition files against their JSON Schemas (draft 2020-12), without a service. What only
 * a service can know, as whether a column exists, is not checked.
 */
final class DefinitionCheck {
  static final List<String> KINDS = List.of("source", "analyser", "index", "endpoint", "scorecard");

  private static final int MAX_EDITS = 3;
  private static final JsonNodeFactory JSON = JsonNodeFactory.instance;

  private final Map<String, Schema> schemas = new HashMap<>();
  private final Map<String, JsonNode> texts = new HashMap<>();
  private final List<Problem.Place> problems = new ArrayList<>();
  private int definitions;

  DefinitionCheck() {
    SchemaRegistry registry = SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12);
    for (String kind : KINDS) {
      try (InputStream in =
          DefinitionCheck.class.getResourceAsStream(
              "/definition-schemas/" + kind + ".schema.json")) {
        JsonNode text = JsonMapper.shared().readTree(in);
        texts.put(kind, text);
        schemas.put(kind, registry.getSchema(text));
      } catch (IOException e) {
        throw new UncheckedIOException(e);
      }
    }
  }

  /** What was found so far. */
  List<Problem.Place> problems() {
    return problems;
  }

  /** How many definitions were looked at. */
  int definitions() {
    return definitions;
  }

  /** Checks a file. */
  void check(String file, String text) {
    try {
      LoadSettings settings = LoadSettings.builder().setLabel(file).setUseMarks(true).build();
      for (Node node : new Compose(settings).composeAllFromString(text)) {
        definitions++;
        check(file, node);
      }
    } catch (MarkedYamlEngineException e) {
      Mark mark = e.getProblemMark().or(e::getContextMark).orElse(null);
      problems.add(
          new Problem.Place(
              file,
              mark == null ? 1 : mark.getLine() + 1,
              mark == null ? 1 : mark.getColumn() + 1,
              "",
              "this is no YAML: " + e.getProblem(),
              null));
    } catch (YamlEngineException e) {
      problems.add(new Problem.Place(file, 1, 1, "", "this is no YAML: " + e.getMessage(), null));
    }
  }

  private void check(String file, Node node) {
    String kind =
        node instanceof MappingNode mapping
                && !mapping.getValue().isEmpty()
                && mapping.getValue().getFirst().getKeyNode() instanceof ScalarNode first
            ? first.getValue()
            : "";
    Schema schema = schemas.get(kind);
    if (schema == null) {
      add(
          file,
          node,
          kind,
          "the first key of a definition says what it defines: %s, not '%s'"
              .formatted(String.join(", ", KINDS), kind),
          nearest(kind, KINDS));
      return;
    }
    Map<String, Node> places = new LinkedHashMap<>();
    JsonNode json = json(file, node, "", places);
    // Of several things that are wrong in one place, the first says enough.
    Map<String, Error> first = new LinkedHashMap<>();
    for (Error error : schema.validate(json)) {
      first.putIfAbsent(pointer(error.getInstanceLocation()) + "\0" + error.getProperty(), error);
    }
    first.values().forEach(error -> add(file, node, places, error));
  }

  private static String pointer(NodePath path) {
    StringBuilder out = new StringBuilder();
    for (int i = 0; i < path.getNameCount(); i++) {
      out.append('\0').append(path.getElement(i));
    }
    return out.toString();
  }

  private void add(String file, Node root, Map<String, Node> places, Error error) {
    String at = pointer(error.getInstanceLocation());
    String property = error.getProperty();
    List<String> path = new ArrayList<>(List.of(at.split("\0", -1)));
    path.removeFirst();
    Node node = places.getOrDefault(at, root);
    String value = node instanceof ScalarNode scalar ? "'" + scalar.getValue() + "' " : "";
    switch (error.getKeyword()) {
      case "additionalProperties" -> {
        path.add(property);
        add(
            file,
            places.getOrDefault(at + "\0" + property + "\0key", node),
            String.join(".", path),
            "unknown key '" + property + "'",
            nearest(property, knownKeys(root, error)));
      }
      case "required" -> {
        path.add(property);
        add(file, node, String.join(".", path), "this key is missing", null);
      }
      case "enum" ->
          add(
              file,
              node,
              String.join(".", path),
              value + "is none of " + texts(error.getSchemaNode()),
              node instanceof ScalarNode scalar
                  ? nearest(scalar.getValue(), list(error.getSchemaNode()))
                  : null);
      default -> add(file, node, String.join(".", path), value + error.getMessage(), null);
    }
  }

  /** The properties that stand beside {@code additionalProperties} in the schema. */
  private List<String> knownKeys(Node root, Error error) {
    String kind = ((ScalarNode) ((MappingNode) root).getValue().getFirst().getKeyNode()).getValue();
    JsonNode at = texts.get(kind);
    NodePath path = error.getSchemaLocation().getFragment();
    for (int i = 0; at != null && i < path.getNameCount() - 1; i++) {
      at = at.get(String.valueOf(path.getElement(i)));
    }
    JsonNode properties = at == null ? null : at.get("properties");
    return properties == null ? List.of() : List.copyOf(properties.propertyNames());
  }

  private static List<String> list(@Nullable JsonNode values) {
    List<String> texts = new ArrayList<>();
    if (values != null) {
      values.forEach(value -> texts.add(value.asString()));
    }
    return texts;
  }

  private static String texts(@Nullable JsonNode values) {
    return String.join(", ", new TreeSet<>(list(values)));
  }

  private static @Nullable String nearest(@Nullable String word, Iterable<String> words) {
    LevenshteinDistance distance = new LevenshteinDistance(MAX_EDITS);
    String best = null;
    int least = Integer.MAX_VALUE;
    for (String known : words) {
      int edits = word == null ? -1 : distance.apply(word, known);
      if (edits >= 0 && edits < least && edits < known.length()) {
        best = known;
        least = edits;
      }
    }
    return best;
  }

  private void add(String file, Node node, String key, String detail, @Nullable String suggestion) {
    Mark mark = node.getStartMark().orElseThrow();
    problems.add(
        new Problem.Place(file, mark.getLine() + 1, mark.getColumn() + 1, key, detail, suggestion));
  }

  /**
   * The node as JSON, by the core schema of YAML 1.2; {@code places} gets each node by its path.
   */
  private JsonNode json(String file, Node node, String at, Map<String, Node> places) {
    places.put(at, node);
    return switch (node) {
      case MappingNode mapping -> object(file, mapping, at, places);
      case SequenceNode sequence -> {
        ArrayNode array = JSON.arrayNode();
        for (Node item : sequence.getValue()) {
          array.add(json(file, item, at + "\0" + array.size(), places));
        }
        yield array;
      }
      case ScalarNode scalar -> value(scalar);
      default -> JSON.nullNode();
    };
  }

  private ObjectNode object(String file, MappingNode mapping, String at, Map<String, Node> places) {
    ObjectNode object = JSON.objectNode();
    for (NodeTuple tuple : mapping.getValue()) {
      String key = tuple.getKeyNode() instanceof ScalarNode scalar ? scalar.getValue() : "";
      if (object.has(key)) {
        add(file, tuple.getKeyNode(), key, "this key stands twice", null);
      }
      places.put(at + "\0" + key + "\0key", tuple.getKeyNode());
      object.set(key, json(file, tuple.getValueNode(), at + "\0" + key, places));
    }
    return object;
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
