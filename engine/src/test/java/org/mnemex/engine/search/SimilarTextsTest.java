package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

class SimilarTextsTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("notes", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH),
              Field.of("bed", FieldType.EXACT, null, Use.FILTER)));
  private static final Map<String, Double> NOTES = Map.of("notes", 1.0);
  private static final String COMMON = "planted in the garden near the wall ";

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterEach
  void clean() {
    folders.close();
  }

  private EditionFolder garden() throws IOException {
    EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA);
    List<List<String>> topics =
        List.of(
            List.of("slug", "damage", "leaf", "pellet", "night"),
            List.of("frost", "fleece", "winter", "cover", "tender"),
            List.of("graft", "rootstock", "scion", "knife", "wax"));
    Random random = new Random(7);
    for (int i = 0; i < 300; i++) {
      List<String> topic = topics.get(i % 3);
      StringBuilder text = new StringBuilder(COMMON);
      for (int n = 0; n < 6; n++) {
        text.append(topic.get(random.nextInt(5))).append(' ');
      }
      edition.put(
          new Document(
              "k" + i,
              Map.of("notes", List.of(text.toString()), "bed", List.of("bed" + i % 2)),
              new byte[0],
              1));
    }
    edition.refresh(Checkpoint.NONE);
    return edition;
  }

  @Test
  void whatTellsMostFindsItsOwnKind() throws IOException {
    try (EditionFolder edition = garden()) {
      Query query =
          edition
              .view()
              .similar(
                  NOTES,
                  Map.of("notes", List.of(COMMON + "slugs damaged a leaf at night")),
                  1,
                  SearchLimits.NONE);
      SearchResult result = edition.search(SearchRequest.of(query, 50));
      assertThat(result.hits())
          .hasSize(50)
          .allMatch(hit -> Integer.parseInt(hit.key().substring(1)) % 3 == 0);
      // Within a filter, and without the record itself.
      SearchResult others =
          edition.search(
              new SearchRequest(
                  query,
                  new Query.AllOf(
                      List.of(
                          new Query.OneOf("bed", List.of("bed0")),
                          new Query.Not(new Query.Keys(List.of("k0"))))),
                  null,
                  0,
                  10,
                  List.of(),
                  Set.of(),
                  List.of()));
      assertThat(others.hits())
          .hasSize(10)
          .allMatch(hit -> Integer.parseInt(hit.key().substring(1)) % 6 == 0)
          .noneMatch(hit -> hit.key().equals("k0"));
    }
  }

  @Test
  void theRarestTermsAreAskedForAndNotTooMany() throws IOException {
    try (EditionFolder edition = garden()) {
      StringBuilder words = new StringBuilder("slug ");
      for (int i = 0; i < 30_000; i++) {
        words.append("w").append(i).append(' ');
      }
      Query query =
          edition
              .view()
              .similar(NOTES, Map.of("notes", List.of(words.toString())), 1, SearchLimits.NONE);
      assertThat(query)
          .isInstanceOfSatisfying(Query.Some.class, some -> assertThat(some.clauses()).hasSize(1));
      assertThat(
              edition
                  .view()
                  .similar(NOTES, Map.of("notes", List.of("unheard of")), 2, SearchLimits.NONE))
          .isEqualTo(new Query.Nothing());
      assertThatThrownBy(
              () ->
                  edition.view().similar(NOTES, Map.of("bed", List.of("x")), 1, SearchLimits.NONE))
          .isInstanceOf(QueryRefusedException.class);
      assertThat(edition.search(SearchRequest.of(new Query.Keys(List.of("k7", "no")), 9)).hits())
          .extracting(SearchResult.Hit::key)
          .containsExactly("k7");
    }
  }
}
