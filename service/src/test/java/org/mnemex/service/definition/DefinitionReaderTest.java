package org.mnemex.service.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.AnalyserSpec;
import org.mnemex.engine.text.ComponentSpec;
import org.mnemex.engine.text.Components;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.sync.definition.CleanStep;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;

/** What definitions mean, and that every mistake is named with its place. */
class DefinitionReaderTest {
  private static final String INDEX =
      """
      index: plants
      source: garden
      record:
        root: accession
        key: [accession_no]
        join:
          taxon: {table: taxon, match: {id: taxon_id}}
          sightings: {table: sighting, match: {accession_no: accession_no}, many: true, order: -seen_on}
      fields:
        name: {from: taxon.name_en, type: text}
        notes: {from: notes, type: text, analyser: own, clean: [strip_html, {split: ";"}]}
        height: {from: height_cm, type: integer, uses: [sort, facet]}
      """;

  private final DefinitionReader reader =
      new DefinitionReader(
          new References(
              name -> name.equals("GARDEN") ? "/srv/garden.db" : null,
              List.of("*"),
              List.of(Path.of("/"))));

  private Definition read(String text) {
    Analyser own =
        Components.analyser(
            "own", new AnalyserSpec(List.of(), ComponentSpec.of("words"), List.of()));
    return reader.read(
        ParsedFile.read("f.yaml", text).orThrow().getFirst(),
        new Vocabulary(Map.of("own", own), Map.of()));
  }

  @Test
  void anIndexIsReadWithItsDefaults() {
    Definition definition = read(INDEX);
    assertThat(definition.content())
        .isInstanceOfSatisfying(
            Definition.OfIndex.class,
            of -> {
              IndexDefinition index = of.index();
              assertThat(of.analysers()).containsExactly("own");
              assertThat(index.shape().join("sightings").order()).containsExactly("-seen_on");
              assertThat(index.shape().watchedColumns())
                  .containsEntry("taxon", Set.of("id"))
                  .containsEntry("sighting", Set.of("accession_no"));
              FieldDefinition name = index.fields().get(0);
              assertThat(name.from()).isEqualTo(new RecordShape.ColumnRef("taxon", "name_en"));
              assertThat(name.field().uses()).containsExactlyInAnyOrder(Use.SEARCH, Use.SHOW);
              assertThat(name.field().analyser().name()).isEqualTo("words");
              assertThat(index.fields().get(1).clean())
                  .containsExactly(new CleanStep.StripHtml(), new CleanStep.Split(";"));
              assertThat(index.schema().field("height").type()).isEqualTo(FieldType.INTEGER);
              assertThat(index.freshest()).hasSeconds(1);
            });
    assertThat(read(INDEX + "freshest: 200ms\n").content())
        .isInstanceOfSatisfying(
            Definition.OfIndex.class, of -> assertThat(of.index().freshest()).hasMillis(200));
  }

  @Test
  void aFileMayHoldSeveralDefinitionsAndReferences() {
    List<DefinitionPart> parts =
        ParsedFile.parts(
            "f.yaml",
            """
            # first
            source: garden
            kind: sqlite
            file: ${GARDEN}
            ---
            analyser: notes
            tokeniser: words
            filters: [lowercase, {stop: [the, of]}, {stem: german}]
            """);
    assertThat(parts)
        .extracting(DefinitionPart::kind)
        .containsExactly(DefinitionKind.SOURCE, DefinitionKind.ANALYSER);
    // What a reference stands for is used, and never kept.
    assertThat(parts.getFirst().text()).contains("${GARDEN}").doesNotContain("/srv");
    assertThat(
            ((Definition.OfSource) reader.read(parts.getFirst(), Vocabulary.BUILT_IN).content())
                .source())
        .isEqualTo(
            new SourceDefinition.Sqlite(
                "garden", Path.of("/srv/garden.db"), SourceDefinition.Following.ASKING));
    Analyser analyser =
        ((Definition.OfAnalyser) reader.read(parts.get(1), Vocabulary.BUILT_IN).content())
            .analyser();
    assertThat(analyser.tokens("The Bäume of Wald").stream().map(AnalysedToken::text))
        .containsExactly("baum", "wald");
  }

  @Test
  void aServersPasswordIsUsedButNeverShown() {
    SourceDefinition source =
        ((Definition.OfSource)
                read("""
                        source: shop
                        kind: postgres
                        host: db.garden.example
                        database: shop
                        user: mnemex
                        password: ${GARDEN}
                        """)
                    .content())
            .source();
    assertThat(source.toString())
        .contains("db.garden.example", "5432", "public", "***")
        .doesNotContain("/srv/garden.db");
    assertThat(((SourceDefinition.Server) source).password().reveal()).isEqualTo("/srv/garden.db");
  }

  @Test
  void theIdentityOfAnIndexChangesWithWhatItHoldsAndNotWithWeightsOrTitles() {
    String text = identity(INDEX);
    assertThat(identity(INDEX.replace("type: text}", "type: text, weight: 9, title: Name}")))
        .isEqualTo(text);
    assertThat(identity(INDEX.replace("type: text}", "type: text, analyser: english}")))
        .isNotEqualTo(text);
    assertThat(identity(INDEX.replace("uses: [sort, facet]", "uses: [sort, filter]")))
        .isNotEqualTo(text);
    assertThat(identity(INDEX.replace("key: [accession_no]", "key: [accession_no]\n  only: \"1\"")))
        .isNotEqualTo(text);
  }

  private String identity(String yaml) {
    return ((Definition.OfIndex) read(yaml).content()).index().text();
  }

  static Stream<Arguments> mistakes() {
    return Stream.of(
        mistake("sorce: x\n", "f.yaml:1:1: sorce: the first key of a definition", "'source'"),
        mistake("source: My Garden\n", "f.yaml:1:9: source: 'My Garden' is not a valid name", ""),
        mistake("- a\n- b\n", "f.yaml:1:1: expected keys with values, not", ""),
        mistake("source: [x\n", "f.yaml:2:1: this is not valid YAML", ""),
        mistake("", "f.yaml:1:1: the file defines nothing", ""),
        mistake("source: g\nsource: h\n", "this key appears twice", ""),
        mistake(
            "source: g\nkind: sqlit\nfile: x\n",
            "f.yaml:2:7: kind: expected one of mariadb, postgres, push, sqlite",
            "'sqlite'"),
        mistake(
            "source: g\nkind: postgres\ndatabase: g\nuser: g\npassword: hush\n",
            "f.yaml:5:11: password: expected a reference to an environment variable, such as ${MNEMEX_GARDEN_PASSWORD}; a password must not stand in a definition",
            ""),
        mistake(
            "source: g\nkind: postgres\ndatabase: g\nuser: g\nport: many\n",
            "f.yaml:5:7: port: 'many' is not a port",
            ""),
        mistake("source: g\nkind: sqlite\n", "f.yaml:1:1: file: this key is missing", ""),
        mistake(
            "source: g\nkind: sqlite\nfile: ${NOPE}\n",
            "f.yaml:3:7: file: environment variable NOPE is not set",
            ""),
        mistake(
            "source: g\nkind: sqlite\nfile: {a: b}\n",
            "f.yaml:3:7: file: expected a single value, not keys with values",
            ""),
        mistake(
            "source: g\nkind: sqlite\nfile: x\nprepare: always\n",
            "prepare: expected one of ask, automatic, not 'always'",
            ""),
        mistake("analyser: english\ntokeniser: words\n", "'english' is built in", ""),
        mistake(
            "analyser: a\ntokeniser: wrds\n",
            "there is no tokeniser 'wrds'; there are cjk_pairs, letters, ngrams, path, pattern, whitespace, whole, words",
            "'words'"),
        mistake(
            "analyser: a\ntokeniser: words\nfilters: [lowercas]\n",
            "there is no token filter 'lowercas'",
            "'lowercase'"),
        mistake(
            "analyser: a\ntokeniser: words\nfilters: [stem]\n",
            "'stem': needs a language: {stem: …}",
            ""),
        mistake(
            "analyser: a\ntokeniser: words\nfilters: [{stem: englsh}]\n",
            "there is no language 'englsh'",
            "'english'"),
        mistake(
            "analyser: a\ntokeniser: words\nfilters: [{stop: klingon}]\n",
            "there are no stopwords for 'klingon'",
            ""),
        mistake(
            "analyser: a\ntokeniser: words\nfilters: [{stp: english}]\n",
            "there is no token filter 'stp'",
            "'stop'"),
        mistake(
            INDEX.replace("key: [accession_no]", "key: []"),
            "f.yaml:5:8: record.key: the columns that identify a record are missing",
            ""),
        mistake(
            INDEX.replace("taxon_id}", "taxn.id}"),
            "f.yaml:7:39: record.join.taxon.match.id: there is no join 'taxn' before this one",
            ""),
        mistake(
            INDEX.replace("match: {id: taxon_id}", "match: {}"),
            "at least one equality is needed",
            ""),
        mistake(
            INDEX.replace("taxon_id}}", "taxon_id}, limit: 5}"),
            "record.join.taxon.limit: only a join with 'many: true' has this",
            ""),
        mistake(
            INDEX.replace("taxon_id}}", "taxon_id}, order: x}"),
            "record.join.taxon.order: only a join with 'many: true' has this",
            ""),
        mistake(
            INDEX.replace("many: true, order: -seen_on", "many: maybe"),
            "expected true or false, not 'maybe'",
            ""),
        mistake(
            INDEX.replace("order: -seen_on", "limit: lots"),
            "expected a whole number from 1 to 100,000, not 'lots'",
            ""),
        mistake(
            INDEX.replace("match: {id: taxon_id}", "via: {table: x, match: {a: b}, to: {c: d}}"),
            "a join via another table needs 'many: true'",
            ""),
        mistake(INDEX + "more: {table: x}\n", "f.yaml:13:1: more: unknown key 'more'", ""),
        mistake(
            INDEX.replace("  height:", "  Height:"),
            "f.yaml:12:3: fields.Height: expected a name of lower-case letters, digits and underscores, not 'Height'",
            ""),
        mistake(
            INDEX.replace("from: height_cm, ", ""),
            "a field has either 'from' (a column) or 'sql' (an expression)",
            ""),
        mistake(
            INDEX.replace("type: integer", "type: intger"),
            "fields.height.type: expected one of boolean, date",
            "'integer'"),
        mistake(
            INDEX.replace("uses: [sort, facet]", "uses: [sort, facets]"),
            "fields.height.uses: expected one of facet, filter",
            "'facet'"),
        mistake(
            INDEX.replace("uses: [sort, facet]", "uses: []"),
            "fields.height.uses: expected at least 1, not 0",
            ""),
        mistake(
            INDEX.replace("type: text}", "type: text, uses: [search, sort]}"),
            "a text field cannot be used for facet, sort or filter",
            ""),
        mistake(
            INDEX.replace("type: text}", "type: text, fold: true}"),
            "only exact fields have this",
            ""),
        mistake(
            INDEX.replace("type: text}", "type: text, weight: 0}"),
            "expected a number above 0 and at most 1,000, not '0'",
            ""),
        mistake(INDEX.replace("{split: \";\"}", "{split: \"\"}"), "expected text, not nothing", ""),
        mistake(
            INDEX.replace("{split: \";\"}", "{date: \"bb\"}"),
            "'bb' is not a form like dd.MM.yyyy",
            ""),
        mistake(
            INDEX.replace("{split: \";\"}", "{replace: {find: \"(\"}}"),
            "this is not an expression",
            ""),
        mistake(
            INDEX.replace("{split: \";\"}", "{decimal_mark: \";\"}"),
            "expected one of ,, ., not ';'",
            ""),
        mistake(
            INDEX.replace("{split: \";\"}", "{spilt: \";\"}"), "unknown key 'spilt'", "'split'"),
        mistake(
            INDEX.replace("type: text}", "type: text, media: m}"),
            "only a field with 'extract: true' has this",
            ""),
        mistake(
            INDEX + "freshest: 90s\n",
            "freshest: expected a time from 50ms to 60s, such as 200ms or 2s, not '90s'",
            ""),
        mistake(
            INDEX + "audits: {every: often}\n",
            "audits.every: expected a time such as 10s, 30m, 6h or 1d, not 'often'",
            ""),
        mistake(INDEX + "unreadable: hide\n", "expected one of keep, remove, not 'hide'", ""),
        mistake(
            "source: g\nkind: sqlite\nfile: x\ncapture: poll\n",
            "watermarks: this key is missing",
            ""),
        mistake(
            "source: g\nkind: sqlite\nfile: x\ncapture: log\n",
            "capture: 'log' is none of journal, poll",
            ""),
        mistake(
            INDEX.replace("strip_html", "strip_htm"),
            "expected one of lower, squeeze, strip_html",
            "'strip_html'"),
        mistake(
            "endpoint: e\nindex: i\nfacets: {q: {field: x}}\n",
            "facets.q: 'q' is a parameter of every search",
            ""),
        mistake(
            "endpoint: e\nindex: i\nsorts: {s: [relevance, name]}\n",
            "f.yaml:3:24: sorts.s: what comes behind relevance would hardly ever decide",
            ""),
        mistake(
            "endpoint: e\nindex: i\nsorts: {s: {by: name, language: tlh}}\n",
            "there is no order of names for language 'tlh'",
            ""),
        mistake(
            "endpoint: e\nindex: i\nsorts: {s: {by: name, missing: never}}\n",
            "expected one of first, last, not 'never'",
            ""),
        mistake(
            "endpoint: e\nindex: i\nwords: some\n",
            "words: expected all, any, a number from 1 to 64 or a share such as 75%, not 'some'",
            ""),
        mistake("endpoint: e\nindex: i\nwords: 0%\n", "'0%' is none of all, any", ""),
        mistake(
            "endpoint: e\nindex: i\nsignals: {n: {shape: logarithm, curve: linear}}\n",
            "only an age or a distance has a curve",
            ""),
        mistake(
            "endpoint: e\nindex: i\nfacets: {a: {field: x, every: 5, choose: all}}\n",
            "facets.a.choose: only a facet by value has this",
            ""),
        mistake(
            "endpoint: e\nindex: i\nfacets: {a: {field: x, split: c}, b: {field: y}}\n",
            "there is no 'c'",
            ""),
        mistake(
            "endpoint: e\nindex: i\nfacets: {a: {field: x, percentiles: [0]}}\n",
            "facets.a.percentiles: expected at most 20 numbers above 0 and at most 100",
            ""),
        mistake(
            "endpoint: e\nindex: i\npage: {most: 5000}\n",
            "expected a whole number from 1 to 1,000, not '5000'",
            ""),
        mistake(
            "endpoint: e\nindex: i\nhighlights: {notes: all}\n",
            "highlights.notes: expected whole, not 'all'",
            ""),
        mistake(
            "endpoint: e\nindex: i\nfacets: {f: {feild: x}}\n",
            "f.yaml:3:13: facets.f.field: this key is missing",
            ""));
  }

  private static Arguments mistake(String yaml, String message, String suggestion) {
    return Arguments.of(yaml, message, suggestion);
  }

  @ParameterizedTest
  @MethodSource("mistakes")
  void everyMistakeIsNamedWithItsPlace(String yaml, String message, String suggestion) {
    assertThatThrownBy(() -> read(yaml))
        .isInstanceOf(DefinitionException.class)
        .hasMessageContaining(message)
        .hasMessageContaining(suggestion);
  }

  /** Bodies of a few kilobytes that would take gigabytes or minutes. */
  @ParameterizedTest
  @MethodSource("tooMuch")
  void whatWouldHoldTheServiceUpIsRefused(String text, String why) {
    assertThatThrownBy(
            () ->
                ParsedFile.read("f.yaml", text)
                    .orThrow()
                    .forEach(part -> reader.read(part, Vocabulary.BUILT_IN)))
        .isInstanceOf(DefinitionException.class)
        .hasMessageContaining(why)
        .satisfies(e -> assertThat(e.getMessage()).hasSizeLessThan(2_500));
  }

  static Stream<Arguments> tooMuch() {
    String analyser = "analyser: mine\ntokeniser: words\n";
    String words =
        IntStream.range(0, 5_000).mapToObj(i -> "w" + i).collect(Collectors.joining(", "));
    return Stream.of(
        Arguments.of(
            analyser + "filters: [{synonyms: [\"" + words + "\"]}]",
            "has a value of more than 20,000 characters"),
        Arguments.of(
            analyser + "filters: [{synonyms: [\"" + words.substring(0, 5_000) + "\"]}]",
            "a rule has at most 500 phrases"),
        Arguments.of(
            analyser + "filters: [" + "lowercase, ".repeat(5_000) + "fold]",
            "an analyser has at most 64 steps, not 5001"),
        Arguments.of(
            analyser + "filters: [{stop: [" + "the, ".repeat(200_000) + "a]}]",
            "has more than 100,000 values"),
        Arguments.of(
            analyser + "filters: [{replace: {find: '" + "(".repeat(900) + "'}}]",
            "nested more than 50 deep"),
        Arguments.of(
            analyser + "filters: [{replace: {find: '((a{100}){100}){100}'}}]",
            "multiply to more than 1,000"),
        Arguments.of("analyser: " + "[".repeat(5_000), "nested more than 40 levels deep"),
        Arguments.of("x".repeat(150) + ": 1", "the first key of a definition says"),
        Arguments.of(
            analyser + "? " + "x".repeat(1_000_000) + "\n: 1", "a key has at most 200 characters"),
        Arguments.of("a: &a [x]\nb: [" + "*a, ".repeat(60) + "*a]", "more than 50 references"));
  }

  @Test
  void stepsThatMakeATextLongerAreCutShort() {
    String map = "{map: {a: aaaaaa}}, ".repeat(20);
    Definition grown =
        read("analyser: mine\ntext: [" + map + "{map: {b: b}}]\ntokeniser: letters\n");
    Analyser analyser = ((Definition.OfAnalyser) grown.content()).analyser();
    assertThat(analyser.tokens("a").getFirst().text()).startsWith("aaa");
    assertThat(analyser.trace("a").getLast().tokens()).hasSize(1);
  }
}
