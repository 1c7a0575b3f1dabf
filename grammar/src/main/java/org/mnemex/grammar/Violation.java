package org.mnemex.grammar;

import com.networknt.schema.Error;
import com.networknt.schema.path.NodePath;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;
import tools.jackson.databind.JsonNode;

/**
 * A violation at one place of a definition, in words.
 *
 * @param place the keys and positions that lead there, or to the mapping in which a key is missing
 * @param node the node there
 * @param key the path for people, including a missing key
 */
record Violation(
    List<String> place, Node node, String key, String detail, @Nullable String suggestion) {

  /**
   * Words an error of the schema validator.
   *
   * @param schema the schema whose keyword failed; null if it cannot be found
   */
  static Violation of(Error error, @Nullable JsonNode schema, YamlTree tree) {
    List<String> place = new ArrayList<>();
    NodePath path = error.getInstanceLocation();
    for (int i = 0; i < path.getNameCount(); i++) {
      place.add(String.valueOf(path.getElement(i)));
    }
    String property = error.getProperty();
    List<String> longer = property == null ? place : YamlTree.with(place, property);
    Node node = tree.node(place);
    return switch (error.getKeyword()) {
      case "additionalProperties" ->
          new Violation(
              longer,
              tree.key(longer),
              YamlTree.dotted(longer),
              "unknown key '%s'".formatted(property),
              Nearest.to(String.valueOf(property), names(schema)));
      case "required" ->
          new Violation(longer, node, YamlTree.dotted(longer), "this key is missing", null);
      case "enum" ->
          new Violation(
              place,
              node,
              YamlTree.dotted(place),
              "expected %s, not %s".formatted(Expected.by(schema), got(node)),
              Nearest.to(node instanceof ScalarNode s ? s.getValue() : "", Expected.words(schema)));
      case "propertyNames" -> {
        String name = String.valueOf(error.getArguments()[0]);
        List<String> named = YamlTree.with(place, name);
        JsonNode names = schema == null ? null : schema.get("propertyNames");
        yield new Violation(
            named,
            tree.key(named),
            YamlTree.dotted(named),
            "expected %s, not '%s'".formatted(Expected.by(names), ParsedFile.shown(name)),
            null);
      }
      default ->
          new Violation(place, node, YamlTree.dotted(place), detail(error, schema, node), null);
    };
  }

  private static String detail(Error error, @Nullable JsonNode schema, Node node) {
    int count = node instanceof SequenceNode list ? list.getValue().size() : 0;
    return switch (error.getKeyword()) {
      case "minItems" ->
          "expected at least %s, not %d".formatted(number(schema, "minItems"), count);
      case "maxItems" -> "expected at most %s, not %d".formatted(number(schema, "maxItems"), count);
      case "minProperties" -> "expected at least one key with a value";
      case "maxProperties" ->
          "expected at most %s keys with values".formatted(number(schema, "maxProperties"));
      case "maxLength" -> "expected at most %s characters".formatted(number(schema, "maxLength"));
      case "type", "pattern", "minimum", "maximum", "exclusiveMinimum", "minLength" ->
          schema != null && schema.path("writeOnly").asBoolean(false)
              // A secret in the wrong place is not repeated in messages and logs.
              ? "expected " + Expected.by(schema)
              : "expected %s, not %s".formatted(Expected.by(schema), got(node));
      default -> error.getMessage();
    };
  }

  private static String number(@Nullable JsonNode schema, String keyword) {
    return schema == null ? "?" : "%,d".formatted(schema.path(keyword).asLong());
  }

  private static List<String> names(@Nullable JsonNode schema) {
    return schema == null ? List.of() : List.copyOf(schema.path("properties").propertyNames());
  }

  /** The found value, in words. */
  private static String got(Node node) {
    return switch (node) {
      case ScalarNode scalar when scalar.getValue().isEmpty() -> "nothing";
      case ScalarNode scalar -> "'" + ParsedFile.shown(scalar.getValue()) + "'";
      case SequenceNode list -> "a list";
      default -> "keys with values";
    };
  }

  /** The expected value, in words. */
  static final class Expected {
    private Expected() {}

    static List<String> words(@Nullable JsonNode schema) {
      List<String> words = new ArrayList<>();
      if (schema != null) {
        schema.path("enum").forEach(word -> words.add(word.asString()));
      }
      return words;
    }

    static String by(@Nullable JsonNode schema) {
      if (schema == null) {
        return "something else";
      }
      if (schema.has("title")) {
        return schema.path("title").asString();
      }
      if (schema.has("enum")) {
        List<String> words = words(schema);
        return words.size() == 1
            ? words.getFirst()
            : "one of " + words.stream().sorted().collect(Collectors.joining(", "));
      }
      JsonNode type = schema.path("type");
      return type.isArray() ? "a single value" : single(type.asString(), schema);
    }

    private static String single(String type, JsonNode schema) {
      return switch (type) {
        case "integer" -> "a whole number" + bounds(schema);
        case "number" -> "a number" + bounds(schema);
        case "boolean" -> "true or false";
        case "object" -> "keys with values";
        case "array" -> "a list";
        case "string" -> "text";
        default -> "something else";
      };
    }

    private static String bounds(JsonNode schema) {
      String most = schema.has("maximum") ? plain(schema.path("maximum")) : null;
      if (schema.has("exclusiveMinimum")) {
        String above = " above " + plain(schema.path("exclusiveMinimum"));
        return most == null ? above : above + " and at most " + most;
      }
      String least = schema.has("minimum") ? plain(schema.path("minimum")) : null;
      if (least != null && most != null) {
        return " from " + least + " to " + most;
      }
      return least != null ? " of at least " + least : most != null ? " of at most " + most : "";
    }

    private static String plain(JsonNode number) {
      return number.isIntegralNumber() ? "%,d".formatted(number.asLong()) : number.asString();
    }
  }
}
