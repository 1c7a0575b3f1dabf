package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.AnalyserSpec;
import org.mnemex.engine.text.ComponentSpec;
import org.mnemex.engine.text.Components;

/** What people type, in words that fall apart, are unfinished, or longer than any piece. */
class TypedWordsTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              text("words", Components.analysers().get("words")),
              text("english", Components.analysers().get("english")),
              text("cased", chain()),
              text(
                  "kept",
                  chain(piece("lowercase"), piece("stem", "language", "english", "keep", "true"))),
              text(
                  "german",
                  chain(
                      piece("lowercase"),
                      new ComponentSpec(
                          "compounds",
                          Map.of(
                              ComponentSpec.MAIN,
                              List.of("apfel", "baum", "schnitt", "garten", "schnit"))),
                      piece("stem", "language", "german"))),
              text("threes", chain(piece("ngrams", "min", "3", "max", "3"))),
              text("beginnings", chain(piece("prefixes", "max", "4"))),
              text(
                  "grams",
                  new AnalyserSpec(List.of(), piece("ngrams", "min", "2", "max", "3"), List.of())),
              Field.of("code", FieldType.EXACT, null, Use.SEARCH, Use.FILTER, Use.FACET)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterEach
  void clean() {
    folders.close();
  }

  private static Field text(String name, Analyser analyser) {
    return Field.of(name, FieldType.TEXT, analyser, Use.SEARCH, Use.SUGGEST);
  }

  private static Field text(String name, AnalyserSpec spec) {
    return text(name, Components.analyser(name, spec));
  }

  private static AnalyserSpec chain(ComponentSpec... filters) {
    return new AnalyserSpec(List.of(), ComponentSpec.of("words"), List.of(filters));
  }

  private static ComponentSpec piece(String name, String... options) {
    Map<String, List<String>> all = new LinkedHashMap<>();
    for (int i = 0; i < options.length; i += 2) {
      all.put(options[i], List.of(options[i + 1]));
    }
    return new ComponentSpec(name, all);
  }

  /** An edition with a document for each text, which every field has. */
  private EditionFolder edition(String... texts) throws IOException {
    EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA);
    for (String text : texts) {
      List<Object> values = List.of((Object[]) text.split(" \\| "));
      Map<String, List<Object>> fields = new LinkedHashMap<>();
      SCHEMA.fields().forEach(field -> fields.put(field.name(), values));
      edition.put(new Document(text, fields, new byte[0], 1));
    }
    edition.refresh(Checkpoint.NONE);
    return edition;
  }

  private static List<String> find(EditionFolder edition, String field, String typed) {
    Query query = QueryText.parse(typed, Map.of(field, 1.0), true, true);
    List<String> found = keys(edition, query, new Query.Everything());
    // As a filter it lets the same documents through.
    assertThat(keys(edition, new Query.Everything(), query))
        .containsExactlyInAnyOrderElementsOf(found);
    return found;
  }

  private static List<String> keys(EditionFolder edition, Query query, Query filter) {
    List<String> keys = new ArrayList<>();
    edition
        .search(new SearchRequest(query, filter, null, 0, 100, List.of(), Set.of(), List.of()))
        .hits()
        .stream()
        .map(SearchResult.Hit::key)
        .forEach(keys::add);
    return keys;
  }

  @Test
  void aStemmedFieldThatKeepsWordsFindsWhatIsBeingTyped() throws IOException {
    try (EditionFolder edition = edition("A University garden", "universal joint")) {
      for (String typed : List.of("universi", "university", "universit", "universities")) {
        assertThat(find(edition, "kept", typed)).as(typed).contains("A University garden");
      }
      assertThat(find(edition, "english", "universi")).isEmpty();
      assertThat(find(edition, "kept", "gard")).containsExactly("A University garden");
    }
  }

  @Test
  void compoundsAreFoundByTheirParts() throws IOException {
    try (EditionFolder edition =
        edition("Apfelbaumschnitt", "Gartenbaum", "Apfelsbäume", "der Baum", "Apfelbaumx")) {
      assertThat(find(edition, "german", "Baum "))
          .containsExactlyInAnyOrder("Apfelbaumschnitt", "Gartenbaum", "der Baum");
      assertThat(find(edition, "german", "Schnitt ")).containsExactly("Apfelbaumschnitt");
      assertThat(find(edition, "german", "Apfelbaumschnitt "))
          .as("a compound that is asked for is meant")
          .containsExactly("Apfelbaumschnitt");
      assertThat(find(edition, "german", "\"Garten Baum\"")).isEmpty();
    }
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = ';',
      textBlock =
          """
          words;wi-f                       ;wi-fi router
          words;wi-fi NEAR/3 router        ;wi-fi router
          words;wi-fi NEAR/0 router        ;wi-fi router
          words;router BEFORE/3 wi         ;wi router
          words;wi BEFORE/9 router         ;wi-fi router
          words;"slug dam*"                ;slug damage
          words;slug NEAR/999 seen         ;
          words;"damage seen"              ;
          words;SLU*E                      ;
          words;SLU?                       ;slug damage,damage | slug then | seen
          cased;R*er                       ;
          cased;r*er                       ;wi-fi router,wi router
          threes;slu                       ;slug damage,damage | slug then | seen
          threes;slug                      ;slug damage,damage | slug then | seen
          threes;damage                    ;slug damage,damage | slug then | seen
          threes;damaged                   ;
          threes;damadam                   ;
          beginnings;rou                   ;wi-fi router,wi router
          beginnings;router                ;wi-fi router,wi router
          grams;"g dam"                    ;slug damage
          grams;"slug dama"                ;slug damage
          grams;"slug damp"                ;
          english;universi                 ;
          """)
  void findsWhatIsMeant(String field, String typed, String expected) throws IOException {
    try (EditionFolder edition =
        edition(
            "wi-fi router", "router wi", "wi router", "slug damage", "damage | slug then | seen")) {
      List<String> wanted = expected == null ? List.of() : List.of(expected.split(","));
      if (typed.equals("router BEFORE/3 wi")) {
        wanted = List.of("router wi");
      } else if (typed.equals("wi BEFORE/9 router")) {
        wanted = List.of("wi-fi router", "wi router");
      } else if (typed.startsWith("r*er") || typed.startsWith("rou")) {
        wanted = List.of("wi-fi router", "wi router", "router wi");
      }
      assertThat(find(edition, field, typed.strip())).containsExactlyInAnyOrderElementsOf(wanted);
    }
  }

  @Test
  void manyEqualWordsNearOneAnotherAreAssignedQuickly() throws IOException {
    try (EditionFolder edition = edition("fern ".repeat(30).strip(), "fern moss")) {
      Query.Near all =
          new Query.Near(Map.of("words", 1.0), Collections.nCopies(20, "fern"), 40, false);
      assertThat(keys(edition, all, new Query.Everything())).hasSize(1);
      Query.Near more =
          new Query.Near(Map.of("words", 1.0), Collections.nCopies(31, "fern"), 40, false);
      assertThat(keys(edition, more, new Query.Everything())).isEmpty();
    }
  }

  @Test
  void whatIsVeryLongIsReadAsFarAsItMatters() throws IOException {
    try (EditionFolder edition = edition("a ".repeat(400).strip(), "b", "x".repeat(2_000))) {
      assertThat(find(edition, "words", "\"" + "a ".repeat(10_000) + "\"")).hasSize(1);
      assertThat(find(edition, "words", "日".repeat(10_000))).isEmpty();
      assertThat(find(edition, "code", "x".repeat(2_000))).hasSize(1);
      Query same = new Query.OneOf("code", List.of("x".repeat(2_000)));
      assertThat(keys(edition, new Query.Everything(), same)).hasSize(1);
    }
  }

  @Test
  void noSynonymsOfAPhraseAreLost() throws IOException {
    String rule = "a, b, c, d";
    Analyser synonyms =
        Components.analyser(
            "synonyms", chain(ComponentSpec.of("lowercase"), ComponentSpec.of("synonyms", rule)));
    Schema schema = new Schema(List.of(text("words", synonyms)));
    try (EditionFolder edition = EditionFolder.open(folders.create(), schema)) {
      edition.put(new Document("k", Map.of("words", List.of("d d d d d d")), new byte[0], 1));
      edition.refresh(Checkpoint.NONE);
      assertThat(find(edition, "words", "\"a b c a b c\"")).containsExactly("k");
    }
  }

  @Test
  void onlySoManySimilarWordsAreTaken() throws IOException {
    try (EditionFolder edition = edition("ferna", "fernb", "fernc", "ferna x")) {
      Query one = new Query.Typo(Map.of("words", 1.0), "fern", 1, 1, false, 1);
      assertThat(keys(edition, one, new Query.Everything()))
          .containsExactlyInAnyOrder("ferna", "ferna x");
    }
  }

  @Test
  void correctionsReadWordsWithMarks() throws IOException {
    try (EditionFolder edition = edition("हिन्दी भाषा")) {
      assertThat(edition.correct(SuggestRequest.of("हिन्दि", 1, "words"))).isEqualTo("हिन्दी");
    }
  }

  /** A phrase with synonyms needs no quotes, in every kind of how many words are wanted. */
  @Test
  void wordsThatHaveSynonymsTogetherFindThem() throws IOException {
    Analyser synonyms =
        Components.analyser(
            "synonyms",
            chain(
                piece("lowercase"),
                ComponentSpec.of("stop", "english"),
                new ComponentSpec(
                    "synonyms",
                    Map.of(
                        ComponentSpec.MAIN,
                        List.of("heat lover => full sun", "bog, damp soil, wet of the foot")))));
    Analyser queries = synonyms.forQueries();
    Analyser plain =
        Components.analyser(
            "plain", chain(piece("lowercase"), ComponentSpec.of("stop", "english")));
    Schema schema =
        new Schema(
            List.of(
                new Field(
                    "words",
                    FieldType.TEXT,
                    Set.of(Use.SEARCH),
                    false,
                    1,
                    plain,
                    queries,
                    0,
                    List.of())));
    try (EditionFolder edition = EditionFolder.open(folders.create(), schema)) {
      for (String text :
          List.of(
              "full sun",
              "sun full",
              "lover heat",
              "a bog",
              "damp soil",
              "soil damp",
              "foot",
              "wet of a foot",
              "wet foot")) {
        edition.put(new Document(text, Map.of("words", List.of(text)), new byte[0], 1));
      }
      edition.refresh(Checkpoint.NONE);
      Map<String, List<String>> expected =
          Map.of(
              "heat lover", List.of("full sun", "lover heat"),
              "Heat lover sun", List.of("full sun"),
              "damp soil", List.of("a bog", "damp soil", "soil damp", "wet of a foot"),
              "wet of the foot", List.of("a bog", "damp soil", "wet of a foot", "wet foot"),
              "\"wet at the foot\"", List.of("a bog", "damp soil", "wet of a foot"),
              "bog", List.of("a bog", "damp soil", "wet of a foot"),
              "damp \"soil\"", List.of("damp soil", "soil damp"));
      expected.forEach(
          (typed, keys) ->
              assertThat(found(edition, queries, typed, Wanted.ALL))
                  .as(typed)
                  .containsExactlyInAnyOrderElementsOf(keys));
      assertThat(found(edition, queries, "heat lover", Wanted.ANY))
          .containsExactlyInAnyOrder("full sun", "lover heat");
      assertThat(found(edition, queries, "soil damp heat lover", new Wanted(1, 1)))
          .contains("full sun", "damp soil", "soil damp");
    }
  }

  private static List<String> found(
      EditionFolder edition, Analyser queries, String typed, Wanted wanted) {
    QueryText.Reading reading =
        new QueryText.Reading(
            Map.of("words", 1.0), wanted, false, false, true, Set.of(), queries::joined);
    return keys(edition, QueryText.parse(typed, reading), new Query.Everything());
  }
}
