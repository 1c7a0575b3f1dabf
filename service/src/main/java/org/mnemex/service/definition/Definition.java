package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.definition.SourceDefinition;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.NodeTuple;
import org.snakeyaml.engine.v2.nodes.ScalarNode;

/**
 * One definition as it was read.
 *
 * @param text the YAML as it was written
 * @param content what it says
 */
public record Definition(String file, String name, String text, Node node, Content content) {
  /** The same with an index that has other names than it was read with. */
  public Definition called(String otherName, String keptAs) {
    return content instanceof OfIndex of
        ? new Definition(
            file,
            otherName,
            text,
            node,
            new OfIndex(of.index().called(otherName, keptAs), of.analysers(), of.was()))
        : this;
  }

  /** What a definition says, by its kind. */
  public sealed interface Content {
    /** The kind's name, which is also a definition's first key. */
    String kind();
  }

  public record OfSource(SourceDefinition source) implements Content {
    @Override
    public String kind() {
      return "source";
    }
  }

  public record OfAnalyser(Analyser analyser) implements Content {
    @Override
    public String kind() {
      return "analyser";
    }
  }

  /**
   * An index.
   *
   * @param analysers names of the analysers that are not built in
   * @param was the name that it had before, if it shall be renamed
   */
  public record OfIndex(IndexDefinition index, List<String> analysers, @Nullable String was)
      implements Content {
    @Override
    public String kind() {
      return "index";
    }
  }

  public record OfEndpoint(EndpointDefinition endpoint) implements Content {
    @Override
    public String kind() {
      return "endpoint";
    }
  }

  public record OfScorecard(ScorecardDefinition scorecard) implements Content {
    @Override
    public String kind() {
      return "scorecard";
    }
  }

  /** What a check against other definitions or the database found, with its place. */
  public DefinitionProblem problem(InvalidDefinitionException e) {
    return problem(e.path(), String.valueOf(e.getMessage()), e.suggestion());
  }

  /** A problem at a path of keys, or as near to it as there is something. */
  public DefinitionProblem problem(
      List<String> path, String detail, @org.jspecify.annotations.Nullable String suggestion) {
    Node at = node;
    for (String key : path) {
      Node next = child(at, key);
      if (next == null) {
        break;
      }
      at = next;
    }
    Mark mark = at.getStartMark().orElseThrow();
    return new DefinitionProblem(
        file,
        mark.getLine() + 1,
        mark.getColumn() + 1,
        String.join(".", new ArrayList<>(path)),
        detail,
        suggestion);
  }

  private static @org.jspecify.annotations.Nullable Node child(Node node, String key) {
    if (node instanceof MappingNode mapping) {
      for (NodeTuple tuple : mapping.getValue()) {
        if (tuple.getKeyNode() instanceof ScalarNode scalar && scalar.getValue().equals(key)) {
          return tuple.getValueNode();
        }
      }
    }
    return null;
  }
}
