package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.CompareRequest;
import org.mnemex.client.ComparedEditions;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;

/** Synonyms that visitors need, from trying to changing them. */
class SynonymsTest {
  private static final String MARSHLAND =
      "synonyms: garden-words\ntwo_way: [[fen, marshland, damp soil]]\n";

  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 300);
    service = RunningService.start(folder);
    service.applyGarden();
    service.client.apply(
        Map.of("notes.yaml", "endpoint: note-search\nindex: plants\nsearch: {notes: 1}\n"));
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static String keys(String words) {
    return service
        .client
        .search("note-search", SearchQuery.words(words).page(1, 100))
        .results()
        .stream()
        .map(SearchAnswer.Result::key)
        .sorted()
        .collect(Collectors.joining(" "));
  }

  @Test
  void synonymsTakeEffectAtOnceAndAreVersioned() throws Exception {
    String damp = keys("\"damp soil\"");
    assertThat(damp).isNotEmpty();
    assertThat(keys("bog")).isEqualTo(damp).isEqualTo(keys("marsh"));
    assertThat(keys("heat lover")).isEqualTo(keys("\"full sun\""));
    // One way only.
    assertThat(keys("\"full sun\"")).isNotEmpty();
    assertThat(keys("fen")).isEmpty();
    int edition = live();

    ComparedEditions tried =
        service
            .client
            .quality()
            .compare(
                "note-search",
                CompareRequest.of(List.of("fen", "bog", "rose"), 10)
                    .with(Map.of("words.yaml", MARSHLAND)));
    assertThat(tried.fromZero()).containsExactly("fen");
    assertThat(tried.toZero()).containsExactly("bog");
    assertThat(tried.queries().stream().filter(query -> query.words().equals("rose")).findFirst())
        .hasValueSatisfying(rose -> assertThat(rose.sameOrder()).isTrue());
    assertThat(keys("fen")).isEmpty();

    service.client.apply(Map.of("words.yaml", MARSHLAND));
    assertThat(keys("fen")).isEqualTo(damp).isEqualTo(keys("marshland"));
    assertThat(keys("bog")).isEmpty();
    assertThat(live()).isEqualTo(edition);

    service.kill();
    service.restart();
    service.awaitLive("plants");
    assertThat(keys("fen")).isEqualTo(damp);
    assertThat(live()).isEqualTo(edition);
    assertThat(service.get("/api/definitions/synonyms/garden-words").body())
        .contains("\"version\":1", "\"version\":2");
    assertThatThrownBy(() -> service.client.remove("synonyms", "garden-words"))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("plants");
  }

  private static int live() {
    return service.client.search("plant-search", SearchQuery.words("")).asOf().edition();
  }

  @Test
  void whatIsWrongIsSaid() {
    assertThatThrownBy(
            () ->
                service.client.apply(
                    Map.of("a.yaml", "synonyms: odd\nlines: |\n  bog\n  usa => us => u s a\n")))
        .hasMessageContaining("a.yaml")
        .hasMessageContaining("2 to 100 words or phrases belong together");
    assertThatThrownBy(() -> service.client.apply(Map.of("a.yaml", "synonyms: odd\nfile: w.txt\n")))
        .hasMessageContaining("unknown key 'file'");
    assertThatThrownBy(
            () ->
                service.client.apply(
                    GardenFiles.edited(
                        "plants.yaml",
                        text -> text.replace("synonyms: garden-words", "synonyms: garden-word"))))
        .hasMessageContaining("there are no synonyms 'garden-word'")
        .hasMessageContaining("garden-words");
    assertThatThrownBy(
            () ->
                service
                    .client
                    .quality()
                    .compare(
                        "note-search",
                        CompareRequest.of(List.of("rose"), 10)
                            .with(
                                GardenFiles.edited(
                                    "plants.yaml",
                                    text -> text.replace("analyser: french", "analyser: german")))))
        .hasMessageContaining("need a new edition");
  }
}
