package org.mnemex.service.shard;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.exc.UnrecognizedPropertyException;
import tools.jackson.databind.json.JsonMapper;

/**
 * Which search node has which shards.
 *
 * @param nodes all of them; a shard may be at several
 */
public record Placement(List<Node> nodes) {
  private static final JsonMapper JSON =
      JsonMapper.builder().enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES).build();

  /**
   * A search node.
   *
   * @param name its {@code mnemex.node.name}
   * @param url where other nodes reach it
   * @param shards numbers of the shards that it has, from 0; none for a node that only asks others
   */
  public record Node(String name, URI url, Set<Integer> shards) {
    public Node {
      if (name == null || url == null || shards == null) {
        throw new IllegalArgumentException("a node has 'name', 'url' and 'shards'");
      }
      if (url.getHost() == null || !url.getScheme().startsWith("http")) {
        throw new IllegalArgumentException(
            "the url of node '%s' is an address such as http://node.example:7077, not '%s'"
                .formatted(name, url));
      }
      if (shards.stream().anyMatch(shard -> shard < 0)) {
        throw new IllegalArgumentException(
            "node '%s' has a shard below 0; shards count from 0".formatted(name));
      }
      shards = Set.copyOf(shards);
    }
  }

  public Placement {
    if (nodes == null) {
      throw new IllegalArgumentException("it has no 'nodes'");
    }
    nodes = List.copyOf(nodes);
    Set<String> names = new HashSet<>();
    for (Node node : nodes) {
      if (!names.add(node.name)) {
        throw new IllegalArgumentException("there are two nodes '%s'".formatted(node.name));
      }
    }
  }

  /** The shards of a node; none if it is not listed. */
  public Set<Integer> of(String name) {
    return nodes.stream()
        .filter(node -> node.name.equals(name))
        .findFirst()
        .map(Node::shards)
        .orElse(Set.of());
  }

  /**
   * Reads a YAML file.
   *
   * @throws IOException if it cannot be read, or is no placement; says what is wrong
   */
  public static Placement read(Path file) throws IOException {
    String text;
    try {
      text = Files.readString(file);
    } catch (IOException e) {
      throw new IOException("the placement of shards, %s, cannot be read".formatted(file), e);
    }
    try {
      Object content = new Load(LoadSettings.builder().build()).loadFromString(text);
      if (!(content instanceof Map)) {
        throw new IllegalArgumentException("it is a YAML map with the key 'nodes'");
      }
      return JSON.convertValue(content, Placement.class);
    } catch (JacksonException | YamlEngineException | IllegalArgumentException e) {
      throw new IOException(
          "the placement of shards, %s, is not valid: %s".formatted(file, why(e)), e);
    }
  }

  private static String why(RuntimeException e) {
    return switch (e) {
      case UnrecognizedPropertyException unknown ->
          "there is no key '%s'; there are %s"
              .formatted(unknown.getPropertyName(), unknown.getKnownPropertyIds());
      case JacksonException other when other.getCause() instanceof IllegalArgumentException cause ->
          String.valueOf(cause.getMessage());
      case JacksonException other -> other.getOriginalMessage();
      default -> String.valueOf(e.getMessage());
    };
  }
}
