package org.mnemex.service.endpoint;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.time.LocalDate;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.facet.RangeFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.service.definition.Card;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.References;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;

class EndpointTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("name", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH),
              Field.of("family", FieldType.EXACT, null, Use.FACET, Use.FILTER),
              Field.of("height", FieldType.INTEGER, null, Use.FACET, Use.SORT),
              Field.of("planted", FieldType.DATE, null, Use.FACET, Use.SHOW),
              Field.of("bed", FieldType.PLACE, null, Use.SHOW),
              Field.group(
                  "seen",
                  List.of(
                      Field.of(
                          "seen.text",
                          FieldType.TEXT,
                          Components.analysers().get("words"),
                          Use.SEARCH)),
                  Use.FILTER)));

  private static EndpointDefinition endpoint(String more) {
    DefinitionReader reader = new DefinitionReader(References.NONE);
    Definition read =
        reader.read(
            ParsedFile.parts("f.yaml", "endpoint: e\nindex: i\n" + more).getFirst(),
            Vocabulary.BUILT_IN);
    return ((Definition.OfEndpoint) read.content()).endpoint();
  }

  @Test
  void theShownTextThatCountsMostNamesAResult() {
    Schema texts =
        new Schema(
            List.of(
                Field.of("code", FieldType.EXACT, null, Use.SHOW),
                text("notes"),
                text("name"),
                text("hidden")));
    String search = "search: {notes: 1, name: 5, hidden: 9}\n";
    assertThat(EndpointFit.of(endpoint(search + "show: [code, notes, name]"), texts).card())
        .isEqualTo(new Card("name", null, null, null));
    assertThat(EndpointFit.of(endpoint(search + "show: [code]"), texts).card().title())
        .isEqualTo("code");
    assertThat(EndpointFit.of(endpoint(search), texts).card().title()).isNull();
    Card card =
        EndpointFit.of(
                endpoint("show: [code]\ncard: {link: \"https://a.example/{code}?k={key}\"}"), texts)
            .card();
    assertThat(Cards.link(card, "a/b", field -> "x & y"))
        .isEqualTo("https://a.example/x%20%26%20y?k=a%2Fb");
    assertThat(Cards.link(card, "a/b", field -> null)).as("nowhere rather than wrong").isNull();
  }

  private static IndexDefinition index(Schema schema) {
    IndexDefinition index = mock(IndexDefinition.class);
    when(index.schema()).thenReturn(schema);
    return index;
  }

  private static Field text(String name) {
    return Field.of(
        name, FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH, Use.SHOW);
  }

  @Test
  void anEndpointIsFittedOnceForAnEdition() {
    Endpoint endpoint = new Endpoint(List.of(endpoint("show: [price]"), endpoint("")), 2);
    IndexDefinition index = index(SCHEMA);
    Fitted fitted = endpoint.fit(index);
    assertThat(fitted).isNotNull().isSameAs(endpoint.fit(index));
    verify(index, times(1)).schema();
    assertThat(fitted.definition().show()).as("the newest that fits").isEmpty();
    Schema other =
        new Schema(List.of(Field.of("price", FieldType.INTEGER, null, Use.SHOW, Use.SORT)));
    assertThat(endpoint.fit(index(other)).definition().show()).containsExactly("price");
  }

  @Test
  void whatIsNotSaidHasDefaults() {
    Fitted fitted = EndpointFit.of(endpoint(""), SCHEMA);
    assertThat(fitted.weights()).containsExactly(Map.entry("name", 1.0));
    assertThat(fitted.forced()).isEqualTo(new Query.Everything());
    assertThat(fitted.definition().sorts()).containsOnlyKeys("best");
    assertThat(fitted.definition().pageSize()).isEqualTo(20);
    assertThat(fitted.definition().words()).isEqualTo(Wanted.ALL);
    assertThat(endpoint("words: 2").words()).isEqualTo(new Wanted(2, 1));
    assertThat(endpoint("words: 75%").words()).isEqualTo(new Wanted(0, 0.75));
    assertThat(
            endpoint(
                    "sorts: {a: relevance, b: [-x, relevance], c: [{by: -x, missing: first}, {by: y, language: sv}]}")
                .sorts())
        .isEqualTo(
            Map.of(
                "a",
                List.of(),
                "b",
                List.of(new EndpointDefinition.SortBy("x", true, false, null)),
                "c",
                List.of(
                    new EndpointDefinition.SortBy("x", true, true, null),
                    new EndpointDefinition.SortBy("y", false, false, "sv"))));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '`',
      textBlock =
          """
          search: {nam: 1}                                | search.nam | the index has no field 'nam'                      | name
          search: {family: 1}                             | search.family | field 'family' does not have the use 'search'        |
          facets: {f: {field: name}}                      | facets.f.field | field 'name' does not have the use 'facet'          |
          facets: {f: {field: family, ranges: ["1..2"]}}  | facets.f.ranges | is not a number or a date, so it has no ranges    |
          facets: {f: {field: height, ranges: ["9..2"]}}  | facets.f.ranges | range '9..2' ends before it begins           |
          facets: {f: {field: height, ranges: ["low"]}}   | facets.f.ranges | 'low' is not a range; write 10..20, ..10 or 20.. |
          sorts: {s: family}                              | sorts.s | field 'family' does not have the use 'sort'                |
          sorts: {s: [-height, family]}                   | sorts.s | field 'family' does not have the use 'sort'                |
          sorts: {s: {by: height, language: sv}}          | sorts.s | field 'height' (integer) has no order of a language  |
          lifts: [{where: "famly = 'x'", by: 2}]          | lifts | line 1, column 1: unknown field 'famly'                |
          groups: {g: {field: name}}                      | groups.g.field | results cannot be grouped by field 'name' (text) |
          show: [height]                                  | show | field 'height' does not have the use 'show'                   |
          highlights: {bed: whole}                        | highlights.bed | field 'bed' is a place, so nothing in it is marked |
          search: {seen.text: 1}                          | search.seen.text | the words of a group's rows are asked for by a filter, EXISTS (seen WHERE MATCHES(text, '…')) |
          facets: {f: {field: seen.text}}                 | facets.f.field | field 'seen.text' does not have the use 'facet'     |
          card: {title: planted}                          | card.title | results do not show field 'planted'; add it to 'show' |
          card: {link: "javascript:alert(1)"}             | card.link | a link begins with https://, http:// or /           |
          card: {link: "https://a.example/{famly}"}       | card.link | results do not show field 'famly'                   |
          card: {link: "//evil.example/{key} x"}          | card.link | a link begins with https://, http:// or /           |
          only: "famly = 'x'"                             | only | line 1, column 1: unknown field 'famly'                 |
          """)
  void whatDoesNotFitTheIndexIsNamed(
      String more, String path, String message, @org.jspecify.annotations.Nullable String nearest) {
    EndpointDefinition definition = endpoint(more + "\n");
    assertThatThrownBy(() -> EndpointFit.of(definition, SCHEMA))
        .isInstanceOfSatisfying(
            UnfitEndpointException.class,
            unfit -> {
              InvalidDefinitionException e = unfit.reasons().getFirst();
              assertThat(String.join(".", e.path())).isEqualTo(path);
              assertThat(e).hasMessageContaining(message);
              assertThat(e.suggestion()).isEqualTo(nearest);
            });
  }

  @Test
  void everythingThatDoesNotFitIsNamedAtOnce() {
    EndpointDefinition definition =
        endpoint("search: {nam: 1}\nonly: x = 1\nfacets: {a: {field: b}}\nshow: [c]\n");
    assertThatThrownBy(() -> EndpointFit.of(definition, SCHEMA))
        .isInstanceOfSatisfying(
            UnfitEndpointException.class,
            unfit ->
                assertThat(unfit.reasons())
                    .extracting(reason -> String.join(".", reason.path()))
                    .containsExactly("search.nam", "facets.a.field", "show", "only"));
  }

  @Test
  void theNewestVersionThatFitsTheLiveEditionAnswers() {
    EndpointDefinition old = endpoint("show: [planted]\n");
    EndpointDefinition newest = endpoint("show: [colour]\n");
    Endpoint endpoint = new Endpoint(List.of(newest, old), 2);
    assertThat(endpoint.newest()).isEqualTo(newest);
    assertThat(endpoint.fit(index(SCHEMA)).definition()).isEqualTo(old);
    assertThat(new Endpoint(List.of(newest), 1).fit(index(SCHEMA))).isNull();
  }

  @Test
  void choicesBecomeValuesOfTheirTypes() {
    Fitted fitted =
        EndpointFit.of(
            endpoint(
                "facets: {p: {field: planted}, h: {field: height, ranges: [\"..30\", \"30..\"]}}\n"),
            SCHEMA);
    FacetRequest planted =
        fitted.facet(fitted.definition().facets().get("p"), List.of("2020-02-29"));
    assertThat(planted)
        .isEqualTo(
            new ValueFacet(
                "p", "planted", List.of(LocalDate.of(2020, 2, 29)), 10, FacetOrder.COUNT));
    FacetRequest height = fitted.facet(fitted.definition().facets().get("h"), List.of("10..20"));
    assertThat(((RangeFacet) height).chosen()).containsExactly(new Interval("10..20", 10L, 20L));
    assertThatThrownBy(
            () -> fitted.facet(fitted.definition().facets().get("p"), List.of("yesterday")))
        .hasMessage("'yesterday' is not a value of field 'planted' (date)");
  }
}
