package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.Suggested;

/** What a search box offers while somebody types. */
class CompletionTest {
  @TempDir private static Path folder;
  private static RunningService service;

  private static final String PHRASES =
      """
      phrases: given
      lines: |
        # offered only if it finds something
        full shade = 2
        damp shade = 5
        damsels and dragons = 9
      ---
      source: popular
      kind: push
      ---
      index: phrases
      source: popular
      record: {key: id}
      fields:
        phrase: {from: phrase, type: text, uses: [search, show, suggest]}
        times: {from: times, type: integer, uses: [sort, show]}
      ---
      phrases: popular
      index: phrases
      field: phrase
      weight: times
      """;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 600);
    service = RunningService.start(folder);
    service.applyGarden();
    StringBuilder endpoints = new StringBuilder(PHRASES);
    endpoint(endpoints, "whole", "", "values: {of: [name]}");
    endpoint(endpoints, "recent", "", "values: {of: [name], recent: planted_on}");
    endpoint(endpoints, "words", "", "words: {}");
    endpoint(endpoints, "facets", "", "facets: {of: [family, bed]}");
    endpoint(endpoints, "given", "", "phrases: {of: [given, popular]}");
    endpoint(endpoints, "searched", "", "searched: {least: 3}");
    endpoint(
        endpoints,
        "few",
        "only: family = 'Rosaceae'\n",
        "{words: {}, facets: {of: [family]}, phrases: {of: [given]}, values: {}}");
    endpoint(endpoints, "shares", "", "{facets: {of: [family], most: 1}, values: {most: 2}}");
    service.client.apply(Map.of("completions.yaml", endpoints.toString()));
    service.awaitLive("phrases");
  }

  private static void endpoint(StringBuilder into, String name, String only, String sources) {
    into.append(
        """
        ---
        endpoint: %s
        index: plants
        search: {name: 5, notes: 1}
        %sshow: [number, name, notes, family, planted_on]
        facets: {family: {field: family}, bed: {field: bed}}
        sorts: {newest: -planted_on}
        completions:
          %s
        """
            .formatted(name, only, sources));
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static List<Suggested> suggest(String endpoint, String typed, int size) {
    return service.client.suggest(endpoint, typed, size);
  }

  private static List<String> texts(String endpoint, String typed) {
    return suggest(endpoint, typed, 8).stream().map(Suggested::text).toList();
  }

  private static Stream<SearchAnswer.Result> all(String endpoint, String words) {
    SearchAnswer answer = service.client.search(endpoint, SearchQuery.words(words).page(1, 100));
    assertThat(answer.found()).isBetween(1L, 100L);
    return answer.results().stream();
  }

  private static String text(SearchAnswer.Result result, String field) {
    return String.valueOf(Objects.requireNonNull(result.fields().get(field)).toString());
  }

  @Test
  void facetValuesAreOfferedInOrderOfTheirRecords() {
    SearchAnswer.Facet families =
        Objects.requireNonNull(
            service.client.search("facets", SearchQuery.words("")).facets().get("family"));
    String most = String.valueOf(families.values().getFirst().value());
    List<Suggested> found = suggest("facets", most.substring(0, 3).toLowerCase(Locale.ROOT), 8);
    assertThat(found.getFirst().text()).isEqualTo(most);
    assertThat(found).allMatch(one -> one.from().equals("facet") && one.facet() != null);
    // Inside a value; then with typing errors.
    assertThat(texts("facets", "walk")).startsWith("Rose Walk");
    assertThat(texts("facets", "Rosaecae")).contains("Rosaceae");
  }

  @Test
  void theLastWordIsCompletedByWordsOfRecordsThatHaveTheOthers() {
    List<String> notes =
        List.of(text(all("words", "rose").findFirst().orElseThrow(), "notes").split("\\P{L}+"));
    String last = notes.stream().filter(word -> word.length() > 6).toList().getLast();
    String typed = "rose " + last.substring(0, 4);
    List<Suggested> found = suggest("words", typed, 8);
    assertThat(found).isNotEmpty().allMatch(one -> one.from().equals("word"));
    for (Suggested one : found) {
      assertThat(one.text()).startsWith("rose ");
      assertThat(one.marked()).startsWith("<mark>rose ");
      assertThat(service.client.search("words", SearchQuery.words(one.text())).found())
          .describedAs(one.text())
          .isPositive();
    }
    assertThat(found.getFirst().marked())
        .startsWith("<mark>" + typed.toLowerCase(Locale.ROOT) + "</mark>");
    assertThat(suggest("words", "rose ", 8)).isEmpty();
    assertThat(suggest("words", "xylophone fer", 8)).isEmpty();
  }

  @Test
  void recentRecordsComeFirst() {
    List<String> newest =
        all("recent", "rose")
            .filter(result -> text(result, "name").toLowerCase(Locale.ROOT).contains("rose"))
            .sorted((a, b) -> text(b, "planted_on").compareTo(text(a, "planted_on")))
            .map(result -> text(result, "name"))
            .distinct()
            .limit(2)
            .toList();
    assertThat(texts("recent", "rose")).startsWith(newest.getFirst());
    assertThat(texts("whole", "rose")).contains(newest.getFirst());
  }

  @Test
  void phrasesAreOfferedIfTheyFindSomething() throws Exception {
    Path popular =
        Files.writeString(
            folder.resolve("popular.ndjson"),
            """
            {"id": 1, "phrase": "rose in full sun", "times": 7}
            {"id": 2, "phrase": "rose", "times": 20}
            {"id": 3, "phrase": "rose of Jericho and Babylon", "times": 90}
            """);
    service.client.push("phrases").file(popular, "replace", (line, why) -> {});
    assertThat(texts("given", "da")).containsExactly("damp shade");
    assertThat(texts("given", "shad")).containsExactly("damp shade", "full shade");
    assertThat(texts("given", "dmap sha")).containsExactly("damp shade");
    RunningService.await(() -> texts("given", "ros").contains("rose"));
    assertThat(texts("given", "ros")).startsWith("rose");
    assertThat(texts("given", "ros")).doesNotContain("rose of Jericho and Babylon");
  }

  @Test
  void whatPeopleSearchForAndFindIsOffered() {
    String name = text(all("searched", "rose").findFirst().orElseThrow(), "name");
    for (int i = 0; i < 3; i++) {
      service.client.search("searched", SearchQuery.words(name + " unicorn"));
      service.client.search("searched", SearchQuery.words(name));
    }
    service.client.search("searched", SearchQuery.words(name.substring(0, 4)));
    RunningService.await(() -> !texts("searched", name.substring(0, 3)).isEmpty());
    // Counted, and so offered, in lower case.
    assertThat(texts("searched", name.substring(0, 3)))
        .containsExactly(name.toLowerCase(Locale.ROOT));
    assertThat(suggest("searched", name, 8).getFirst().from()).isEqualTo("searched");
  }

  @Test
  void nothingComesFromRecordsThatAnEndpointHides() {
    List<Suggested> found =
        Stream.of("a", "f", "r", "s", "d")
            .flatMap(one -> suggest("few", one, 20).stream())
            .toList();
    List<String> names = all("few", "").map(result -> text(result, "name")).toList();
    assertThat(found).isNotEmpty();
    for (Suggested one : found) {
      switch (one.from()) {
        case "facet" -> assertThat(one.text()).isEqualTo("Rosaceae");
        case "value" -> assertThat(String.join(" ", names) + notes()).contains(one.text());
        default ->
            assertThat(service.client.search("few", SearchQuery.words(one.text())).found())
                .describedAs(one.text())
                .isPositive();
      }
    }
  }

  private static String notes() {
    return all("few", "").map(result -> text(result, "notes")).toList().toString();
  }

  @Test
  void eachSourceHasItsShareAndTheRestGoesToThoseWithMore() {
    List<String> from = suggest("shares", "r", 8).stream().map(Suggested::from).toList();
    assertThat(from.subList(0, 3)).containsExactly("facet", "value", "value");
    assertThat(from.size()).isGreaterThan(3);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '"',
      value = {
        "values: {of: [family]} | field 'family' does not have the use 'suggest'",
        "values: {of: [latin_name]} | is not among those that results show",
        "values: {recent: name} | field 'name' does not have the use 'sort'",
        "facets: {of: [famly]} | the endpoint has no facet 'famly'",
        "facets: {of: [year]} | facet 'year' cannot complete words",
        "phrases: {of: [nothing]} | there is no phrases 'nothing'",
        "searches: {} | 'searches'",
      })
  void whatDoesNotFitIsRefused(String sources, String why) {
    StringBuilder text = new StringBuilder();
    endpoint(text, "wrong", "", sources);
    String yaml =
        text.substring(4).replace("bed: {field: bed}}", "year: {field: planted_on, every: year}}");
    assertThatThrownBy(() -> service.client.plan(Map.of("wrong.yaml", yaml)))
        .hasMessageContaining(why);
  }

  @Test
  void phrasesKeepTheirIndex() {
    assertThatThrownBy(() -> service.client.remove("index", "phrases"))
        .hasMessageContaining("popular");
    assertThatThrownBy(
            () ->
                service.client.apply(
                    Map.of("p.yaml", "phrases: popular\nindex: phrases\nfield: times\n")))
        .hasMessageContaining("times");
    assertThatThrownBy(
            () -> service.client.apply(Map.of("p.yaml", "phrases: p\nlines: 'rose = five'\n")))
        .hasMessageContaining("a number is wanted");
  }
}
