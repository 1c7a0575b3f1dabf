package org.mnemex.grammar;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
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

/**
 * A definition file: YAML 1.2 documents whose first key says what they define.
 *
 * @param parts the definitions whose kind and name could be read, well formed or not
 * @param problems all violations of the grammar
 */
public record ParsedFile(List<DefinitionPart> parts, List<DefinitionProblem> problems) {
  /** The form of the name of a definition. */
  public static final Pattern NAME = Pattern.compile("[a-z][a-z0-9-]{0,62}");

  private static final int MAX_DEPTH = 40;
  private static final int MAX_ALIASES = 50;
  private static final int MAX_SHOWN = 60;

  /**
   * Reads a file and checks it against the grammar.
   *
   * @param name its name, for messages
   */
  public static ParsedFile read(String name, String text) {
    ParsedFile cut = cut(name, text);
    List<DefinitionProblem> problems = new ArrayList<>(cut.problems);
    for (DefinitionPart part : cut.parts) {
      problems.addAll(Grammar.problems(part));
    }
    return new ParsedFile(cut.parts, problems);
  }

  /** The problems of one of its definitions. */
  public List<DefinitionProblem> problemsOf(DefinitionPart part) {
    int last = part.node().getEndMark().orElseThrow().getLine() + 1;
    return problems.stream()
        .filter(problem -> problem.line() >= part.line() && problem.line() <= last)
        .toList();
  }

  /**
   * Its definitions.
   *
   * @throws DefinitionException with all problems
   */
  public List<DefinitionPart> orThrow() {
    if (!problems.isEmpty()) {
      throw new DefinitionException(problems);
    }
    return parts;
  }

  /**
   * Splits a file that was accepted before into its definitions.
   *
   * @throws DefinitionException if it is not YAML, or a document does not say what it defines
   */
  public static List<DefinitionPart> parts(String name, String text) {
    return cut(name, text).orThrow();
  }

  private static ParsedFile cut(String name, String text) {
    List<DefinitionPart> parts = new ArrayList<>();
    List<DefinitionProblem> problems = new ArrayList<>();
    try {
      LoadSettings settings = LoadSettings.builder().setLabel(name).setUseMarks(true).build();
      DefinitionProblem tooLarge = tooLarge(name, text, settings);
      if (tooLarge != null) {
        return new ParsedFile(parts, List.of(tooLarge));
      }
      for (Node node : new Compose(settings).composeAllFromString(text)) {
        part(name, text, node, parts, problems);
      }
    } catch (MarkedYamlEngineException e) {
      problems.add(
          problem(
              name,
              e.getProblemMark().or(e::getContextMark).orElse(null),
              "",
              "this is not valid YAML: " + e.getProblem(),
              null));
    } catch (YamlEngineException e) {
      problems.add(problem(name, null, "", "this is not valid YAML: " + e.getMessage(), null));
    }
    if (parts.isEmpty() && problems.isEmpty()) {
      problems.add(problem(name, null, "", "the file defines nothing", null));
    }
    return new ParsedFile(parts, problems);
  }

  /** Refuses excessive nesting and references. */
  private static @Nullable DefinitionProblem tooLarge(
      String file, String text, LoadSettings settings) {
    int depth = 0;
    int aliases = 0;
    for (Event event : new Parse(settings).parseString(text)) {
      switch (event.getEventId()) {
        case MappingStart, SequenceStart -> depth++;
        case MappingEnd, SequenceEnd -> depth--;
        case Alias -> aliases++;
        default -> {
          // Neither nests nor refers.
        }
      }
      if (depth > MAX_DEPTH || aliases > MAX_ALIASES) {
        return problem(
            file,
            event.getStartMark().orElse(null),
            "",
            depth > MAX_DEPTH
                ? "nested more than %d levels deep".formatted(MAX_DEPTH)
                : "more than %d references to other places".formatted(MAX_ALIASES),
            null);
      }
    }
    return null;
  }

  private static void part(
      String file,
      String text,
      Node node,
      List<DefinitionPart> parts,
      List<DefinitionProblem> problems) {
    Mark begin = node.getStartMark().orElseThrow();
    if (!(node instanceof MappingNode mapping) || mapping.getValue().isEmpty()) {
      problems.add(
          problem(file, begin, "", "expected keys with values, not a value by itself", null));
      return;
    }
    Node key = mapping.getValue().getFirst().getKeyNode();
    String word = key instanceof ScalarNode scalar ? shown(scalar.getValue()) : "";
    DefinitionKind kind = DefinitionKind.of(word);
    if (kind == null) {
      problems.add(
          problem(
              file,
              begin,
              word,
              "the first key of a definition says what it defines: %s, not '%s'"
                  .formatted(DefinitionKind.inWords(), word),
              Nearest.to(word, DefinitionKind.words())));
      return;
    }
    Node value = mapping.getValue().getFirst().getValueNode();
    String name = value instanceof ScalarNode scalar ? scalar.getValue() : "";
    if (!NAME.matcher(name).matches()) {
      problems.add(
          problem(
              file,
              value.getStartMark().orElse(begin),
              word,
              "'%s' is not a valid name; use at most 63 lower-case letters, digits and hyphens, beginning with a letter"
                  .formatted(shown(name)),
              null));
      return;
    }
    int start = text.offsetByCodePoints(0, begin.getIndex());
    int end = text.offsetByCodePoints(0, node.getEndMark().orElseThrow().getIndex());
    parts.add(
        new DefinitionPart(
            file, kind, name, text.substring(start, end).stripTrailing() + "\n", node));
  }

  /** The beginning of a user's text, for messages. */
  static String shown(String text) {
    return text.length() <= MAX_SHOWN ? text : text.substring(0, MAX_SHOWN) + "…";
  }

  static DefinitionProblem problem(
      String file, @Nullable Mark mark, String key, String detail, @Nullable String suggestion) {
    return new DefinitionProblem(
        file,
        mark == null ? 1 : mark.getLine() + 1,
        mark == null ? 1 : mark.getColumn() + 1,
        key,
        detail,
        suggestion);
  }
}
