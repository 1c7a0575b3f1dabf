package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;

/**
 * Definition files as they are handed to a service. A file whose first document is {@code include:
 * [paths]} brings other files with it, each once; so what several services have in common is
 * written down once, and each has a small file of its own.
 */
final class DefinitionFiles {
  private static final String INCLUDE = "include";

  private final Map<Path, String> texts = new LinkedHashMap<>();

  private DefinitionFiles() {}

  /**
   * Reads files, and folders of which all YAML files are taken.
   *
   * @return texts by the path that errors name
   * @throws IOException if a file is not there, or an include is no list of paths
   */
  static Map<String, String> read(List<Path> paths) throws IOException {
    DefinitionFiles files = new DefinitionFiles();
    for (Path path : paths) {
      files.add(path, null);
    }
    Map<String, String> texts = new LinkedHashMap<>();
    files.texts.forEach(
        (path, text) -> {
          if (!text.isBlank()) {
            texts.put(path.toString(), text);
          }
        });
    if (texts.isEmpty()) {
      throw new IOException("no .yaml file in " + paths);
    }
    return texts;
  }

  private void add(Path path, @Nullable Path from) throws IOException {
    for (Path file : inside(path)) {
      Path name = file.normalize();
      if (!Files.isRegularFile(file)) {
        throw new IOException(
            from == null
                ? file + " does not exist"
                : "%s includes %s, which does not exist".formatted(from, name));
      }
      if (texts.containsKey(name)) {
        continue;
      }
      String text = Files.readString(file);
      Node first = first(text);
      List<String> included = includes(first, name);
      String own = included.isEmpty() ? text : withoutFirst(text, first);
      texts.put(name, WordFiles.inserted(own, file));
      for (String one : included) {
        add(file.resolveSibling(one), name);
      }
    }
  }

  private static List<Path> inside(Path path) throws IOException {
    if (!Files.isDirectory(path)) {
      return List.of(path);
    }
    try (Stream<Path> inside = Files.list(path)) {
      return inside
          .filter(file -> file.toString().endsWith(".yaml") || file.toString().endsWith(".yml"))
          .sorted()
          .toList();
    }
  }

  /** The first document; null if there is none, or the text is no YAML, which is said elsewhere. */
  private static @Nullable Node first(String text) {
    try {
      LoadSettings settings = LoadSettings.builder().setUseMarks(true).build();
      for (Node node : new Compose(settings).composeAllFromString(text)) {
        return node;
      }
    } catch (YamlEngineException e) {
      return null;
    }
    return null;
  }

  private static List<String> includes(@Nullable Node first, Path file) throws IOException {
    if (!(first instanceof MappingNode mapping)
        || mapping.getValue().isEmpty()
        || !(mapping.getValue().getFirst().getKeyNode() instanceof ScalarNode key)
        || !key.getValue().equals(INCLUDE)) {
      return List.of();
    }
    List<String> paths = new ArrayList<>();
    Node value = mapping.getValue().getFirst().getValueNode();
    for (Node one : value instanceof SequenceNode list ? list.getValue() : List.of(value)) {
      if (one instanceof ScalarNode path && !path.getValue().isBlank()) {
        paths.add(path.getValue());
      }
    }
    if (mapping.getValue().size() != 1 || paths.isEmpty()) {
      throw new IOException(
          "%s: 'include' is a document of its own, with a path or a list of paths".formatted(file));
    }
    return paths;
  }

  /** The rest of a text; lines keep their numbers. */
  private static String withoutFirst(String text, @Nullable Node first) {
    int end =
        first == null ? 0 : text.offsetByCodePoints(0, first.getEndMark().orElseThrow().getIndex());
    return text.substring(0, end).replaceAll("[^\n]", "") + text.substring(end);
  }
}
