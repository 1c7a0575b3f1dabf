package org.mnemex.grammar;

import com.networknt.schema.Error;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import com.networknt.schema.path.NodePath;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** The JSON Schemas of definitions, and the check against them. */
public final class Grammar {
  private static final Map<DefinitionKind, Grammar> ALL = new EnumMap<>(DefinitionKind.class);

  static {
    SchemaRegistry registry = SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12);
    for (DefinitionKind kind : DefinitionKind.values()) {
      ALL.put(kind, new Grammar(read(kind), registry));
    }
  }

  private final String text;
  private final JsonNode root;
  private final Schema schema;

  private Grammar(String text, SchemaRegistry registry) {
    this.text = text;
    this.root = JsonMapper.shared().readTree(text);
    this.schema = registry.getSchema(root);
  }

  private static String read(DefinitionKind kind) {
    try (InputStream in =
        Grammar.class.getResourceAsStream("/definition-schemas/" + kind + ".schema.json")) {
      return new String(Objects.requireNonNull(in).readAllBytes(), StandardCharsets.UTF_8);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /** The JSON Schema of a kind of definition (draft 2020-12). */
  public static String schema(DefinitionKind kind) {
    return grammar(kind).text;
  }

  /** All violations of a definition's schema, in the order of the text. */
  static List<DefinitionProblem> problems(DefinitionPart part) {
    YamlTree tree;
    try {
      tree = YamlTree.of(part.node());
    } catch (YamlTree.TooLargeException e) {
      return List.of(
          ParsedFile.problem(
              part.file(),
              part.node().getStartMark().orElse(null),
              "",
              String.valueOf(e.getMessage()),
              null));
    }
    List<DefinitionProblem> problems = new ArrayList<>();
    for (YamlTree.BadKey bad : tree.badKeys()) {
      problems.add(
          ParsedFile.problem(
              part.file(), bad.node().getStartMark().orElse(null), bad.path(), bad.detail(), null));
    }
    Grammar grammar = grammar(part.kind());
    // One problem for each place is enough.
    Map<List<String>, DefinitionProblem> first = new LinkedHashMap<>();
    for (Error error : grammar.schema.validate(tree.json())) {
      Violation violation = Violation.of(error, grammar.at(error), tree);
      first.putIfAbsent(
          violation.place(),
          ParsedFile.problem(
              part.file(),
              violation.node().getStartMark().orElse(null),
              violation.key(),
              violation.detail(),
              violation.suggestion()));
    }
    problems.addAll(first.values());
    problems.sort(DefinitionProblem.BY_PLACE);
    return problems;
  }

  private static Grammar grammar(DefinitionKind kind) {
    return Objects.requireNonNull(ALL.get(kind));
  }

  /** The schema whose keyword was not met. */
  private @Nullable JsonNode at(Error error) {
    JsonNode at = root;
    NodePath path = error.getSchemaLocation().getFragment();
    for (int i = 0; at != null && i < path.getNameCount() - 1; i++) {
      Object step = path.getElement(i);
      at = step instanceof Integer index ? at.get(index) : at.get(String.valueOf(step));
    }
    return at;
  }
}
