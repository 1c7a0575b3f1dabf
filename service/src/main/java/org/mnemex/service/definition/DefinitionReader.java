package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.NearestName;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.api.lowlevel.Parse;
import org.snakeyaml.engine.v2.events.Event;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;

/** Reads definition files: YAML documents whose first key says what they define. */
public final class DefinitionReader {
  static final Pattern NAME = Pattern.compile("[a-z][a-z0-9-]{0,62}");
  private static final int MAX_DEPTH = 40;
  private static final int MAX_ALIASES = 50;

  private static final Set<String> KINDS =
      Set.of("source", "analyser", "index", "endpoint", "scorecard");

  private final Function<String, @Nullable String> environment;

  /**
   * @param environment what {@code ${NAME}} stands for, null if it is not set
   */
  public DefinitionReader(Function<String, @Nullable String> environment) {
    this.environment = environment;
  }

  /**
   * A definition before its content is read.
   *
   * @param kind source, analyser, index, endpoint or scorecard
   * @param text the YAML as it was written
   */
  public record Part(String file, String kind, String name, String text, Node node) {}

  /**
   * Cuts a file into its definitions.
   *
   * @throws DefinitionException if it is no YAML, or a document does not say what it defines
   */
  public List<Part> parts(String file, String text) {
    List<Part> parts = new ArrayList<>();
    try {
      LoadSettings settings = LoadSettings.builder().setLabel(file).setUseMarks(true).build();
      checkSize(file, text, settings);
      for (Node node : new Compose(settings).composeAllFromString(text)) {
        parts.add(part(file, text, node));
      }
    } catch (MarkedYamlEngineException e) {
      throw problem(
          file,
          e.getProblemMark().or(e::getContextMark).orElse(null),
          "this is no YAML: " + e.getProblem());
    } catch (YamlEngineException e) {
      throw problem(file, null, "this is no YAML: " + e.getMessage());
    }
    if (parts.isEmpty()) {
      throw problem(file, null, "the file defines nothing");
    }
    return parts;
  }

  /**
   * Refuses what is nested so deep, or refers to itself so often, that reading it would take more
   * than a definition can be worth.
   */
  private static void checkSize(String file, String text, LoadSettings settings) {
    int depth = 0;
    int aliases = 0;
    for (Event event : new Parse(settings).parseString(text)) {
      switch (event.getEventId()) {
        case MappingStart, SequenceStart -> depth++;
        case MappingEnd, SequenceEnd -> depth--;
        case Alias -> aliases++;
        default -> {
          // Neither opens nor repeats anything.
        }
      }
      if (depth > MAX_DEPTH || aliases > MAX_ALIASES) {
        throw problem(
            file,
            event.getStartMark().orElse(null),
            depth > MAX_DEPTH
                ? "nested more than %d deep".formatted(MAX_DEPTH)
                : "more than %d references to what stands elsewhere".formatted(MAX_ALIASES));
      }
    }
  }

  private static DefinitionException problem(String file, @Nullable Mark mark, String detail) {
    return new DefinitionException(
        List.of(
            new DefinitionProblem(
                file,
                mark == null ? 1 : mark.getLine() + 1,
                mark == null ? 1 : mark.getColumn() + 1,
                "",
                detail,
                null)));
  }

  private static Part part(String file, String text, Node node) {
    YamlMap map = new YamlMap(file, List.of(), node);
    String kind = "";
    if (node instanceof MappingNode mapping
        && !mapping.getValue().isEmpty()
        && mapping.getValue().getFirst().getKeyNode() instanceof ScalarNode first) {
      kind = YamlMap.shown(first.getValue());
    }
    if (!KINDS.contains(kind)) {
      throw map.problem(
          kind,
          "the first key of a definition says what it defines: source, analyser, index,"
              + " endpoint or scorecard, not '"
              + kind
              + "'",
          NearestName.to(kind, KINDS));
    }
    String name = map.text(kind);
    if (!NAME.matcher(name).matches()) {
      throw map.problem(
          kind,
          "'"
              + YamlMap.shown(name)
              + "' is no name; a name is lower-case letters, digits and hyphens",
          null);
    }
    int start = text.offsetByCodePoints(0, node.getStartMark().orElseThrow().getIndex());
    int end = text.offsetByCodePoints(0, node.getEndMark().orElseThrow().getIndex());
    return new Part(file, kind, name, text.substring(start, end).stripTrailing() + "\n", node);
  }

  /**
   * Reads a definition's content.
   *
   * @param analysers the analysers that it may use besides the built-in ones
   */
  public Definition read(Part part, Map<String, Analyser> analysers) {
    YamlMap map = new YamlMap(part.file(), List.of(), part.node());
    map.text(part.kind());
    Definition.Content content =
        switch (part.kind()) {
          case "source" ->
              new Definition.OfSource(new SourceReader(map, part.name(), environment).read());
          case "analyser" -> new Definition.OfAnalyser(new AnalyserReader(map, part.name()).read());
          case "index" -> new IndexReader(map, part.name(), analysers).read();
          case "scorecard" ->
              new Definition.OfScorecard(new ScorecardReader(map, part.name()).read());
          default -> new Definition.OfEndpoint(new EndpointReader(map, part.name()).read());
        };
    map.finish();
    return new Definition(part.file(), part.name(), part.text(), part.node(), content);
  }
}
