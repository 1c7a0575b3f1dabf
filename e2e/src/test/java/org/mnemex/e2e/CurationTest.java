package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.client.CompareRequest;
import org.mnemex.client.ComparedEditions;
import org.mnemex.client.EndpointTrial;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;

/** What gardeners choose to show first, hide and say for some queries. */
class CurationTest {
  @TempDir private static Path folder;
  private static RunningService service;

  /** Results of "rose" without any curation, best first. */
  private static List<String> roses;

  /** Visible records that "rose" does not find. */
  private static List<String> others;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 600);
    service = RunningService.start(folder);
    service.applyGarden();
    roses = keys(SearchQuery.words("rose").page(1, 100));
    others =
        keys(SearchQuery.words("magnolia").page(1, 50)).stream()
            .filter(key -> !roses.contains(key))
            .toList();
    service.client.apply(Map.of("curation.yaml", definition()));
  }

  private static String definition() {
    return """
        curation: summer
        endpoint: plant-search
        rules:
          roses:
            when: {words: [rose, "Rosés  in bed"]}
            first: [%s, NO-SUCH, %s]
            hide: [%s]
            message: {text: "The rose walk opens at ten.", link: "https://plants.quillmere.example/roses"}
          over:
            when: {words: rose}
            to: 2020-12-31
            hide: [%s]
          spelling:
            when: {contains: rosse bush}
            replace: {rosse: rose, bush: ""}
          evergreens:
            when: {matches: "^winter (walk|tour)$"}
            replace: {winter: rose, walk: "", tour: ""}
            lift: {where: "evergreen = true", by: 1000}
          ferns:
            when: {contains: fernery}
            add: [shade]
        """
        .formatted(others.getFirst(), roses.get(5), roses.getFirst(), roses.get(1));
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static SearchAnswer search(SearchQuery query) {
    return service.client.search("plant-search", query);
  }

  private static List<String> keys(SearchQuery query) {
    return search(query).results().stream().map(SearchAnswer.Result::key).toList();
  }

  /** The roses as the rule wants them. */
  private static List<String> curated() {
    List<String> expected = new ArrayList<>(roses);
    expected.removeAll(List.of(roses.getFirst(), roses.get(5)));
    expected.addAll(0, List.of(others.getFirst(), roses.get(5)));
    return expected;
  }

  @Test
  void recordsArePutFirstAndHiddenOnEveryPage() {
    List<String> pages = new ArrayList<>();
    SearchAnswer first = search(SearchQuery.words("Rose!").page(1, 1));
    for (int page = 1; page <= curated().size(); page += 1) {
      pages.addAll(keys(SearchQuery.words("rose").page(page, 1)));
    }
    assertThat(pages).isEqualTo(curated());
    assertThat(first.found()).isEqualTo(curated().size());
    assertThat(first.results().getFirst().putFirst()).isTrue();
    assertThat(first.curated())
        .containsExactly(
            new SearchAnswer.Curated(
                "summer",
                "roses",
                "The rose walk opens at ten.",
                "https://plants.quillmere.example/roses"));
    assertThat(keys(SearchQuery.words("rose").skip(1, 7))).isEqualTo(curated().subList(1, 8));
    SearchAnswer ten = search(SearchQuery.words("rose").page(1, 10));
    assertThat(keys(SearchQuery.words("rose").after(ten.next()).page(1, 20)))
        .isEqualTo(curated().subList(10, Math.min(30, curated().size())));
  }

  @Test
  void facetsCountWhatIsShown() {
    SearchAnswer answer = search(SearchQuery.words("rose").page(1, 100));
    for (String facet : List.of("bed", "status")) {
      SearchAnswer counted = search(SearchQuery.words("rose").counts(List.of(facet)).page(1, 100));
      for (SearchAnswer.FacetValue value : counted.facets().get(facet).values()) {
        long shown =
            answer.results().stream()
                .filter(result -> value.value().equals(result.fields().get(facet)))
                .count();
        assertThat(value.count()).as(facet + " " + value.value()).isEqualTo(shown);
        assertThat(search(SearchQuery.words("rose").choose(facet, value.value())).found())
            .isEqualTo(value.count());
      }
    }
  }

  @Test
  void anOrderOrGroupsOfTheCallerStay() {
    SearchAnswer sorted = search(SearchQuery.words("rose").sort("newest").page(1, 100));
    assertThat(sorted.results()).allSatisfy(result -> assertThat(result.putFirst()).isNull());
    assertThat(sorted.found()).isEqualTo(roses.size() - 1);
    assertThat(keys(SearchQuery.words("rose").sort("best").page(1, 1)))
        .containsExactly(others.getFirst());
    assertThat(search(SearchQuery.words("rose").group("family")).results())
        .allSatisfy(result -> assertThat(result.putFirst()).isNull());
  }

  @ParameterizedTest
  @CsvSource({"rosse bush, rose", "'ROSSE bush', rose", "fernery fern, fernery fern shade"})
  void wordsAreReplacedAndAdded(String typed, String searched) {
    SearchAnswer answer = search(SearchQuery.words(typed).page(1, 100));
    assertThat(answer.curated()).hasSize(1);
    assertThat(answer.results().stream().map(SearchAnswer.Result::key).toList())
        .isEqualTo(
            searched.equals("rose")
                ? roses
                : keys(SearchQuery.words(searched + " shade").page(1, 100)));
    assertThat(search(SearchQuery.words(typed).choose("evergreen", "true")).chosen())
        .allSatisfy(
            chosen -> assertThat(chosen.remove()).containsIgnoringCase(typed.split(" ")[0]));
  }

  @Test
  void recordsAreLifted() {
    SearchAnswer answer = search(SearchQuery.words("winter tour").page(1, 100));
    assertThat(answer.found()).isEqualTo(roses.size());
    long evergreen = search(SearchQuery.words("winter tour").choose("evergreen", "true")).found();
    assertThat(answer.results().stream().limit(evergreen).map(SearchAnswer.Result::key))
        .containsExactlyInAnyOrderElementsOf(
            keys(SearchQuery.words("winter tour").choose("evergreen", "true").page(1, 100)));
    assertThat(search(SearchQuery.words("winter tours")).curated()).isNull();
  }

  @Test
  void explanationsSayIt() {
    SearchQuery rose = SearchQuery.words("rose");
    assertThat(service.client.explain("plant-search", rose, others.getFirst()).what())
        .isEqualTo("put first by rule 'roses' of curation 'summer', whatever its score");
    assertThat(service.client.explain("plant-search", rose, roses.getFirst()).what())
        .isEqualTo("hidden by rule 'roses' of curation 'summer'");
    assertThat(service.client.explain("plant-search", rose, roses.get(3)).what())
        .startsWith("score of");
  }

  @Test
  void aCurationIsComparedBeforeUse() {
    ComparedEditions compared =
        service
            .client
            .quality()
            .compare(
                "plant-search",
                CompareRequest.of(List.of("rose", "quartz"), 5)
                    .with(
                        Map.of(
                            "other.yaml",
                            "curation: other\nendpoint: plant-search\nrules:\n"
                                + "  quartz: {when: {words: quartz}, first: ["
                                + roses.get(3)
                                + "]}\n")));
    assertThat(compared.fromZero()).containsExactly("quartz");
    assertThat(search(SearchQuery.words("quartz")).found()).isZero();
  }

  @Test
  void definitionsAreTriedUnderAnotherName() throws Exception {
    String last = roses.getLast();
    EndpointTrial trial =
        service
            .client
            .quality()
            .tryDefinitions(
                "plant-search",
                Map.of(
                    "curation.yaml",
                    definition(),
                    "more.yaml",
                    """
                    curation: tried
                    endpoint: plant-search
                    rules: {last: {when: {words: tried rose}, replace: {tried: ""}, first: [%s]}}
                    """
                        .formatted(last)));
    SearchAnswer tried =
        service.client.search(trial.endpoint(), SearchQuery.words("tried rose").page(1, 5));
    assertThat(tried.results().getFirst().key()).isEqualTo(last);
    assertThat(tried.total().count()).isEqualTo(roses.size());
    assertThat(service.client.search("plant-search", SearchQuery.words("tried rose")).curated())
        .isNull();
    // What is tried is not what people search for.
    service.client.search(trial.endpoint(), SearchQuery.words("only tried"));
    String counted = service.get("/api/endpoints/plant-search/queries").body();
    assertThat(counted).contains("tried rose").doesNotContain("only tried");
    assertThatThrownBy(
            () -> service.client.search("plant-search~0", SearchQuery.words("tried rose")))
        .hasMessageContaining("the trial 'plant-search~0' has ended");
    assertThatThrownBy(
            () ->
                service
                    .client
                    .quality()
                    .tryDefinitions(
                        "plant-search",
                        Map.of("a.yaml", "endpoint: plant-search\nindex: plants\nshow: [nme]\n")))
        .hasMessageContaining("nme");
  }

  @Test
  void whatIsWrongIsSaid() {
    String begin = "curation: odd\nendpoint: plant-search\nrules:\n  one: ";
    Map<String, String> wrong =
        Map.of(
            "{when: {words: a}}", "the rule does nothing",
            "{when: {words: a, contains: b}, add: [c]}", "when",
            "{when: {matches: '('}, add: [c]}", "this expression is wrong",
            "{when: {words: '!'}, add: [c]}", "'!' has no word",
            "{when: {words: a}, add: [c], from: 2026-05-02, to: 2026-05-01}", "before the first",
            "{when: {words: a}, add: [c], from: may}", "'may' is not a day",
            "{when: {words: a}, lift: {where: famly = 'x'}}", "rules.one.lift.where",
            "{when: {words: a}, message: {text: t, link: 'javascript:alert(1)'}}", "https://");
    wrong.forEach(
        (rule, why) ->
            assertThatThrownBy(() -> service.client.apply(Map.of("odd.yaml", begin + rule + "\n")))
                .hasMessageContaining("odd.yaml")
                .hasMessageContaining(why));
    assertThatThrownBy(
            () ->
                service.client.apply(
                    Map.of(
                        "odd.yaml",
                        begin.replace("plant-", "plnt-") + "{when: {words: a}, add: b}")))
        .hasMessageContaining("there is no endpoint 'plnt-search'");
    assertThatThrownBy(() -> service.client.remove("endpoint", "plant-search"))
        .hasMessageContaining("summer");
  }
}
