package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionProblem;
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
            new OfIndex(
                of.index().called(otherName, keptAs), of.analysers(), of.synonyms(), of.was()))
        : this;
  }

  /** Its kind and name. */
  public DefinitionId id() {
    return new DefinitionId(content.kind(), name);
  }

  /** The content of a definition, by kind. */
  public sealed interface Content {
    DefinitionKind kind();

    /** The definitions that this one needs. */
    Set<DefinitionId> uses();
  }

  public record OfSource(SourceDefinition source) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.SOURCE;
    }

    @Override
    public Set<DefinitionId> uses() {
      return Set.of();
    }
  }

  public record OfAnalyser(Analyser analyser) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.ANALYSER;
    }

    @Override
    public Set<DefinitionId> uses() {
      return Set.of();
    }
  }

  public record OfSynonyms(SynonymsDefinition synonyms) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.SYNONYMS;
    }

    @Override
    public Set<DefinitionId> uses() {
      return Set.of();
    }
  }

  /**
   * An index.
   *
   * @param analysers names of the analysers that are not built in
   * @param synonyms names of the synonyms of its fields
   * @param was the name that it had before, if it is to be renamed
   */
  public record OfIndex(
      IndexDefinition index, List<String> analysers, List<String> synonyms, @Nullable String was)
      implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.INDEX;
    }

    @Override
    public Set<DefinitionId> uses() {
      Set<DefinitionId> uses = new TreeSet<>();
      uses.add(new DefinitionId(DefinitionKind.SOURCE, index.source()));
      analysers.forEach(name -> uses.add(new DefinitionId(DefinitionKind.ANALYSER, name)));
      synonyms.forEach(name -> uses.add(new DefinitionId(DefinitionKind.SYNONYMS, name)));
      return uses;
    }
  }

  public record OfPhrases(PhrasesDefinition phrases) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.PHRASES;
    }

    @Override
    public Set<DefinitionId> uses() {
      return phrases.from() == null
          ? Set.of()
          : Set.of(new DefinitionId(DefinitionKind.INDEX, phrases.from().index()));
    }
  }

  public record OfEndpoint(EndpointDefinition endpoint) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.ENDPOINT;
    }

    @Override
    public Set<DefinitionId> uses() {
      Set<DefinitionId> uses = new TreeSet<>();
      uses.add(new DefinitionId(DefinitionKind.INDEX, endpoint.index()));
      endpoint.phrases().forEach(name -> uses.add(new DefinitionId(DefinitionKind.PHRASES, name)));
      return uses;
    }
  }

  public record OfCuration(CurationDefinition curation) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.CURATION;
    }

    @Override
    public Set<DefinitionId> uses() {
      return Set.of(new DefinitionId(DefinitionKind.ENDPOINT, curation.endpoint()));
    }
  }

  public record OfScorecard(ScorecardDefinition scorecard) implements Content {
    @Override
    public DefinitionKind kind() {
      return DefinitionKind.SCORECARD;
    }

    @Override
    public Set<DefinitionId> uses() {
      return Set.of(new DefinitionId(DefinitionKind.ENDPOINT, scorecard.endpoint()));
    }
  }

  /** What a check against other definitions or the database found, with its place. */
  public DefinitionProblem problem(InvalidDefinitionException e) {
    return problem(e.path(), String.valueOf(e.getMessage()), e.suggestion());
  }

  /** A problem at a path of keys, or at the nearest parent that exists. */
  public DefinitionProblem problem(List<String> path, String detail, @Nullable String suggestion) {
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

  private static @Nullable Node child(Node node, String key) {
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
