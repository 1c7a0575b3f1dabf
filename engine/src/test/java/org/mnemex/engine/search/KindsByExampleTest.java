package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mnemex.engine.search.KindsData.NAME;
import static org.mnemex.engine.search.KindsData.SCHEMA;

import java.io.IOException;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.PatternText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggestion;

/** Explanations, suggestions, limits and very large documents, by example. */
class KindsByExampleTest {
  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterEach
  void clean() {
    folders.close();
  }

  private EditionFolder garden() throws IOException {
    EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA);
    String[] names = {
      "Shade fern",
      "Hart's-tongue fern",
      "Fern moss",
      "Rose of shade",
      "Shadow rose",
      "Harts clover"
    };
    for (int i = 0; i < names.length; i++) {
      edition.put(
          new Document(
              "k" + i,
              Map.of(
                  "name",
                  List.of(names[i]),
                  "price",
                  List.of(BigDecimal.valueOf(i, 2)),
                  "planted",
                  List.of(LocalDate.of(2026, 1, 1).plusDays(i)),
                  "place",
                  List.of(new Place(51, i))),
              new byte[0],
              i));
    }
    edition.refresh(Checkpoint.NONE);
    return edition;
  }

  @Test
  void explanationsAddUpExactlyAndSayWhatIsMissing() throws IOException {
    try (EditionFolder edition = garden()) {
      Query query =
          QueryText.parse(
              "shade fern",
              new QueryText.Reading(NAME, Wanted.ANY, false, true, true, Set.of(), words -> 0));
      SearchRequest request =
          SearchRequest.of(query, 10)
              .rankedBy(
                  List.of(
                      new Signal.Logarithm("price", 0.7),
                      new Signal.Age("planted", 0.3, 2, Instant.parse("2026-01-04T00:00:00Z")),
                      new Signal.Distance("place", 2, 100_000, new Place(51, 2)),
                      new Signal.Saturating("price", 0.1, 0.02)));
      SearchResult result = edition.search(request);
      assertThat(result.hits()).isNotEmpty();
      for (SearchResult.Hit hit : result.hits()) {
        Explanation explanation = edition.explain(request, hit.key());
        assertThat(explanation.matched()).isTrue();
        assertThat(explanation.value()).isEqualTo(hit.score());
        addsUp(explanation);
      }
      Explanation missing =
          edition.explain(SearchRequest.of(new Query.Word(NAME, "moss", false), 1), "k0");
      assertThat(missing.matched()).isFalse();
      assertThat(missing.parts().getFirst().what()).contains("word 'moss': not there");
      assertThat(edition.explain(request, "nobody")).isNull();
    }
  }

  private static void addsUp(Explanation explanation) {
    explanation.parts().forEach(KindsByExampleTest::addsUp);
    if (explanation.how() == Explanation.How.SUM) {
      double sum = 0;
      for (Explanation part : explanation.parts()) {
        sum += part.value();
      }
      assertThat(sum).isEqualTo(explanation.value());
    } else if (explanation.how() == Explanation.How.PRODUCT) {
      double product = 1;
      for (Explanation part : explanation.parts()) {
        product *= part.value();
      }
      assertThat(product).isEqualTo(explanation.value());
    }
  }

  @Test
  void completionsAndCorrections() throws IOException {
    try (EditionFolder edition = garden()) {
      assertThat(texts(edition.suggest(SuggestRequest.of("har", 5, "name"))))
          .containsExactly("Harts clover", "Hart's-tongue fern");
      assertThat(texts(edition.suggest(SuggestRequest.of("shd", 5, "name"))))
          .contains("Shade fern", "Shadow rose");
      assertThat(texts(edition.suggest(SuggestRequest.of("shade fe", 5, "name"))))
          .startsWith("Shade fern");
      SuggestRequest filtered =
          new SuggestRequest(
              "fer",
              List.of("name"),
              5,
              new Query.Range("price", new BigDecimal("0.02"), true, null, false),
              List.of(),
              SearchLimits.NONE);
      assertThat(texts(edition.suggest(filtered))).containsExactly("Fern moss");
      assertThat(edition.correct(SuggestRequest.of("shde rose", 1, "name")))
          .isEqualTo("shade rose");
      assertThat(edition.correct(SuggestRequest.of("shade rose", 1, "name"))).isNull();
      assertThat(edition.correct(SuggestRequest.of("xyzzy", 1, "name"))).isNull();
      assertThat(edition.correct(SuggestRequest.of("shadefern", 1, "name")))
          .as("two words written as one")
          .isEqualTo("shade fern");
      assertThat(edition.correct(SuggestRequest.of("sha de rose", 1, "name")))
          .as("one word written as two")
          .isEqualTo("shade rose");
    }
  }

  private static List<String> texts(List<Suggestion> suggestions) {
    return suggestions.stream().map(Suggestion::text).toList();
  }

  @Test
  void whatIsTooMuchIsRefusedInWords() throws IOException {
    try (EditionFolder edition = garden()) {
      List<Query> many = new ArrayList<>();
      for (int i = 0; i < 10_000; i++) {
        many.add(new Query.Word(NAME, "w" + i, false));
      }
      refused(edition, new Query.AnyOf(many), "more than 1024 clauses");
      Query deep = new Query.Word(NAME, "fern", false);
      for (int i = 0; i < 5_000; i++) {
        deep = new Query.Weighted(deep, 1);
      }
      refused(edition, deep, "nested more than");
      refused(edition, new Query.Pattern(NAME, "(a*)*b("), "a ')' is missing");
      refused(edition, new Query.Pattern(NAME, "x".repeat(501)), "at most 500 characters");
      refused(edition, new Query.OneOf("sightings.kind", List.of("pest")), "belongs to child rows");
      refused(
          edition,
          new Query.Group("sightings", new Query.OneOf("price", List.of(BigDecimal.ONE))),
          "does not belong to group 'sightings'");
      assertThat(PatternText.compile("(a|aa)*(a|aa)*(a|aa)*b").matches("a".repeat(5_000)))
          .isFalse();
      SearchRequest fern = SearchRequest.of(new Query.Word(NAME, "s", true), 10);
      assertThatThrownBy(
              () -> edition.search(fern.within(new SearchLimits(1000, 1 << 20, 1, false))))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("'s*' matches more than 1 terms");
      assertThatThrownBy(
              () -> edition.search(fern.within(new SearchLimits(-1, 1 << 20, 100, false))))
          .isInstanceOf(SearchTimeoutException.class)
          .hasMessageContaining("of 6 documents");
      SearchResult partial = edition.search(fern.within(new SearchLimits(-1, 1 << 20, 100, true)));
      assertThat(partial.partial()).isTrue();
      assertThat(partial.totalIsExact()).isFalse();
      assertThatThrownBy(() -> SearchRequest.of(new Query.Everything(), 10_001))
          .hasMessageContaining("cursor of the last result");
    }
  }

  @Test
  void whatRanOutOfTimeIsNotRemembered() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = 0; i < 12_000; i++) {
        edition.put(new Document("k" + i, Map.of("name", List.of("fern")), new byte[0], i));
      }
      edition.refresh(Checkpoint.NONE);
      Query fern = new Query.Word(NAME, "fern", false);
      SearchRequest filtered =
          new SearchRequest(
              new Query.Everything(), fern, null, 0, 10, List.of(), Set.of(), List.of());
      for (int i = 0; i < 3; i++) {
        SearchResult partial =
            edition.search(filtered.within(new SearchLimits(-1, 1 << 20, 100, true)));
        assertThat(partial.partial()).isTrue();
      }
      assertThat(edition.search(filtered).total()).isEqualTo(12_000);
    }
  }

  @Test
  void nothingIsNotEverythingAndALeastScoreIsExplained() throws IOException {
    try (EditionFolder edition = garden()) {
      Query nothing = new Query.Not(new Query.AllOf(List.of()));
      assertThat(edition.search(SearchRequest.of(nothing, 10)).total()).isZero();
      SearchRequest fern = SearchRequest.of(new Query.Word(NAME, "fern", false), 10);
      Explanation tooLittle = edition.explain(fern.scoringAtLeast(1_000), "k0");
      assertThat(tooLittle.matched()).isFalse();
      assertThat(tooLittle.parts())
          .anyMatch(part -> part.what().equals("score of at least 1000.0") && !part.matched());
      assertThatThrownBy(
              () -> edition.search(fern.rankedBy(List.of(new Signal.Saturating("price", 1, 0)))))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("must be above 0");
    }
  }

  private static void refused(EditionFolder edition, Query query, String why) {
    assertThatThrownBy(() -> edition.search(SearchRequest.of(query, 1)))
        .isInstanceOf(QueryRefusedException.class)
        .hasMessageContaining(why);
  }

  @Test
  void giantDocumentsAreCutAndCountedAndNeverLost() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      List<Object> beds = new ArrayList<>();
      for (int i = 0; i < 100_000; i++) {
        beds.add("glass/" + i);
      }
      edition.put(
          new Document(
              "big",
              Map.of("name", List.of("fern ".repeat(2_000_000) + "end"), "bed", beds),
              new byte[0],
              1));
      assertThatThrownBy(
              () ->
                  edition.put(
                      new Document(
                          "bad", Map.of("price", List.of(new BigDecimal("1e30"))), new byte[0], 1)))
          .isInstanceOf(IllegalArgumentException.class)
          .hasMessageContaining("document 'bad'");
      edition.put(new Document("small", Map.of("name", List.of("moss")), new byte[0], 1));
      edition.refresh(Checkpoint.NONE);
      assertThat(edition.cuts()).isGreaterThan(0);
      assertThat(edition.snapshot().documents()).isEqualTo(2);
      assertThat(edition.search(SearchRequest.of(new Query.Word(NAME, "fern", false), 1)).total())
          .isEqualTo(1);
      assertThat(edition.search(SearchRequest.of(new Query.Word(NAME, "moss", false), 1)).total())
          .isEqualTo(1);
    }
  }
}
