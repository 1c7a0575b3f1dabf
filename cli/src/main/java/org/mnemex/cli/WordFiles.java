package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Files with synonyms or phrases. A definition of these kinds may say {@code file: PATH}; the
 * service gets the text in place of the path, so that a version of the definition is complete.
 */
final class WordFiles {
  private static final Set<String> KINDS = Set.of("synonyms", "phrases");
  private static final String FILE = "file";

  private WordFiles() {}

  /**
   * A definition file with the texts of the files that it names, on the same lines.
   *
   * @param from the definition file, which paths are relative to
   * @throws IOException if a file cannot be read
   */
  static String inserted(String text, Path from) throws IOException {
    StringBuilder out = new StringBuilder(text);
    for (NodeTuple named : named(text).reversed()) {
      String path = ((ScalarNode) named.getValueNode()).getValue();
      Path file = from.resolveSibling(path);
      if (!Files.isRegularFile(file)) {
        throw new IOException("%s names %s, which does not exist".formatted(from, path));
      }
      int start = index(text, named.getKeyNode(), true);
      int end = index(text, named.getValueNode(), false);
      // A quoted text of JSON is one of YAML.
      String words = JsonMapper.shared().writeValueAsString(Files.readString(file));
      out.replace(start, end, "lines: " + words);
    }
    return out.toString();
  }

  private static List<NodeTuple> named(String text) {
    List<NodeTuple> named = new ArrayList<>();
    try {
      LoadSettings settings = LoadSettings.builder().setUseMarks(true).build();
      for (Node node : new Compose(settings).composeAllFromString(text)) {
        if (node instanceof MappingNode mapping && KINDS.contains(firstKey(mapping))) {
          mapping.getValue().stream()
              .filter(tuple -> FILE.equals(text(tuple.getKeyNode())))
              .filter(tuple -> text(tuple.getValueNode()) != null)
              .forEach(named::add);
        }
      }
    } catch (YamlEngineException e) {
      // That it is no YAML is said elsewhere.
      return List.of();
    }
    return named;
  }

  private static @Nullable String firstKey(MappingNode mapping) {
    return mapping.getValue().isEmpty() ? null : text(mapping.getValue().getFirst().getKeyNode());
  }

  private static @Nullable String text(Node node) {
    return node instanceof ScalarNode scalar ? scalar.getValue() : null;
  }

  private static int index(String text, Node node, boolean start) {
    int points = (start ? node.getStartMark() : node.getEndMark()).orElseThrow().getIndex();
    return text.offsetByCodePoints(0, points);
  }
}
