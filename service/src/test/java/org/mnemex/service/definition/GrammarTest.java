package org.mnemex.service.definition;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.Grammar;
import org.mnemex.grammar.ParsedFile;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What the schemas allow and what the readers read is the same. */
class GrammarTest {
  private static String text;
  private static ParsedFile file;

  @BeforeAll
  static void read() throws IOException {
    try (InputStream in = GrammarTest.class.getResourceAsStream("/every-key.yaml")) {
      text = new String(Objects.requireNonNull(in).readAllBytes(), StandardCharsets.UTF_8);
    }
    file =
        ParsedFile.read(
            "every-key.yaml",
            text.replace(
                "password_file: every-key.yaml",
                "password_file: src/test/resources/every-key.yaml"));
  }

  /** A key that the schema has and no reader asks for is an unknown one to the reader. */
  @Test
  void theReadersKnowEveryKeyOfTheSchemas() {
    Vocabulary notes =
        new Vocabulary(
            Map.of("notes", Objects.requireNonNull(Components.analysers().get("words"))),
            Map.of("sorts", new SynonymsDefinition("sorts", List.of("rose, briar"))));
    DefinitionReader reader =
        new DefinitionReader(
            new References(name -> "secret", List.of("MNEMEX_*"), List.of(Path.of("/"))));
    for (DefinitionPart part : file.orThrow()) {
      assertThat(reader.read(part, notes).id())
          .isEqualTo(new DefinitionId(part.kind(), part.name()));
    }
  }

  @Test
  void theExamplesHaveEveryKeyAndEveryWordOfTheSchemas() {
    Set<String> missing = new TreeSet<>();
    for (DefinitionKind kind : DefinitionKind.values()) {
      JsonNode schema = JsonMapper.shared().readTree(Grammar.schema(kind));
      Set<String> wanted = new TreeSet<>();
      keysAndWords(schema, "", wanted, false);
      Set<String> found = new TreeSet<>();
      file.parts().stream()
          .filter(part -> part.kind() == kind)
          .forEach(part -> written(part.node(), found));
      wanted.removeAll(found);
      wanted.forEach(one -> missing.add(kind + ": " + one));
    }
    assertThat(missing).isEmpty();
  }

  private static void keysAndWords(JsonNode schema, String key, Set<String> into, boolean names) {
    if (schema.isObject()) {
      schema
          .properties()
          .forEach(
              one -> {
                boolean properties = one.getKey().equals("properties") && !names;
                if (names) {
                  into.add(one.getKey());
                }
                if (one.getKey().equals("enum") && !names) {
                  one.getValue().forEach(word -> into.add(word.asString()));
                }
                keysAndWords(one.getValue(), one.getKey(), into, properties);
              });
    } else if (schema.isArray()) {
      schema.forEach(item -> keysAndWords(item, key, into, false));
    }
  }

  private static void written(Node node, Set<String> into) {
    switch (node) {
      case MappingNode mapping ->
          mapping
              .getValue()
              .forEach(
                  one -> {
                    written(one.getKeyNode(), into);
                    written(one.getValueNode(), into);
                  });
      case SequenceNode list -> list.getValue().forEach(item -> written(item, into));
      case ScalarNode scalar -> into.add(scalar.getValue());
      default -> {
        // There is nothing else.
      }
    }
  }

  /** What the engine has and the schemas forgot could never be written in a definition. */
  @Test
  void theSchemasHaveEveryTypeUseAndCleanUpStep() {
    JsonNode fields =
        JsonMapper.shared().readTree(Grammar.schema(DefinitionKind.INDEX)).path("$defs");
    Set<String> types = new TreeSet<>();
    fields
        .path("field")
        .path("properties")
        .path("type")
        .path("enum")
        .forEach(w -> types.add(w.asString()));
    Set<String> known = new TreeSet<>();
    for (FieldType type : FieldType.values()) {
      known.add(type.word());
    }
    assertThat(types).isEqualTo(known);
    Set<String> uses = new TreeSet<>();
    fields.path("use").path("enum").forEach(w -> uses.add(w.asString()));
    Set<String> knownUses = new TreeSet<>();
    for (Use use : Use.values()) {
      knownUses.add(use.word());
    }
    assertThat(uses).isEqualTo(knownUses);
    assertThat(fields.path("step").path("then").path("properties").propertyNames())
        .containsExactlyInAnyOrderElementsOf(CleanSteps.NAMES);
  }

  @Test
  void everythingThatIsWrongIsReportedAtOnce() {
    ParsedFile wrong =
        ParsedFile.read(
            "f.yaml",
            """
            index: plants
            source: 7up
            record: {root: accession}
            fields:
              Name: {from: n, type: txt}
              price: {type: decimal, scale: lots, uses: []}
            ---
            endpoint: e
            index: plants
            search: [name, notes]
            page: {size: 0, moost: 5}
            facets: {family: roses}
            only:
            """);
    assertThat(wrong.parts()).extracting(DefinitionPart::name).containsExactly("plants", "e");
    assertThat(wrong.problems())
        .extracting(problem -> problem.toString().replaceAll("one of .*, not", "one of …, not"))
        .containsExactly(
            "f.yaml:2:9: source: expected a name of lower-case letters, digits and hyphens, not '7up'",
            "f.yaml:3:9: record.key: this key is missing",
            "f.yaml:5:3: fields.Name: expected a name of lower-case letters, digits and underscores, not 'Name'",
            "f.yaml:5:25: fields.Name.type: expected one of …, not 'txt'; did you mean 'text'?",
            "f.yaml:6:33: fields.price.scale: expected a whole number from 0 to 9, not 'lots'",
            "f.yaml:6:45: fields.price.uses: expected at least 1, not 0",
            "f.yaml:10:9: search: expected a weight by field, such as {name: 5, notes: 1}, not a list",
            "f.yaml:11:14: page.size: expected a whole number from 1 to 1,000, not '0'",
            "f.yaml:11:17: page.moost: unknown key 'moost'; did you mean 'most'?",
            "f.yaml:12:18: facets.family: expected keys with values, not 'roses'",
            "f.yaml:13:6: only: expected a single value, not nothing");
  }

  /** References that repeat references would fill the memory. */
  @Test
  void whatGrowsWithoutEndIsRefused() {
    StringBuilder laughs = new StringBuilder("analyser: a\ntokeniser: words\nfilters:\n- &a0 x\n");
    for (int i = 1; i < 25; i++) {
      laughs.append("- &a%d [*a%d, *a%d]\n".formatted(i, i - 1, i - 1));
    }
    assertThat(ParsedFile.read("f.yaml", laughs.toString()).problems())
        .extracting(Object::toString)
        .containsExactly("f.yaml:1:1: a definition has at most 500,000 values");
  }
}
