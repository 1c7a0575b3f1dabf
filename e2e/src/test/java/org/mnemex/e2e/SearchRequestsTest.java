package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What a caller may ask of a search, and how answers are cached and linked. */
class SearchRequestsTest {
  private static final String SEARCH = "/search/plant-search";
  private static final Pattern NEXT = Pattern.compile("<([^>]*)>; rel=\"next\"");

  @TempDir private static Path folder;
  private static Path garden;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, 300);
    service = RunningService.start(folder);
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static SearchAnswer search(SearchQuery query) {
    return service.client.search("plant-search", query);
  }

  private static List<String> keys(SearchAnswer answer) {
    return answer.results().stream().map(SearchAnswer.Result::key).toList();
  }

  private static JsonNode get(String path) throws IOException, InterruptedException {
    HttpResponse<String> answer = service.get(path);
    assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
    return JsonMapper.shared().readTree(answer.body());
  }

  @Test
  void onlyTheChosenFieldsFacetsAndPartsAreAnswered() throws Exception {
    SearchAnswer all = search(SearchQuery.words("fern"));
    SearchAnswer few =
        search(
            SearchQuery.words("fern")
                .fields(List.of("name", "bed"))
                .counts(List.of("status"))
                .highlights(false)
                .total(false));
    assertThat(keys(few)).isEqualTo(keys(all));
    assertThat(few.results())
        .allSatisfy(
            result -> {
              assertThat(result.fields().keySet()).isSubsetOf("name", "bed").contains("name");
              assertThat(result.highlights()).isEmpty();
              assertThat(result.link()).endsWith(result.key());
            });
    assertThat(few.total()).isNull();
    assertThat(few.pages()).isNull();
    assertThat(all.facets()).doesNotContainKey("status").containsKey("family");
    assertThat(few.facets()).containsOnlyKeys("status");
    assertThat(few.facets().get("status").values().stream().mapToLong(v -> v.count()).sum())
        .isEqualTo(all.found());
    assertThat(search(SearchQuery.words("").choose("status", "nursery")).found())
        .isEqualTo(
            ((Number)
                    GardenFiles.query(
                            garden, "SELECT count(*) FROM accession WHERE status = 'nursery'")
                        .getFirst()
                        .getFirst())
                .longValue());
    assertThat(get(SEARCH + "?q=fern&counts=&size=0").get("facets")).isEmpty();
  }

  @Test
  void aChosenFacetNarrowsEvenIfItIsNotCounted() throws Exception {
    SearchAnswer counted = search(SearchQuery.words("").choose("evergreen", "true"));
    SearchAnswer not =
        search(SearchQuery.words("").choose("evergreen", "true").counts(List.of("family")));
    assertThat(not.found()).isEqualTo(counted.found());
    assertThat(not.facets()).containsOnlyKeys("family");
    assertThat(not.chosen()).hasSize(1);
    assertThat(not.chosen().getFirst().remove()).isEqualTo("?counts=family");
  }

  @Test
  void skippingEqualsPaging() {
    SearchQuery query = SearchQuery.words("").sort("name", "newest");
    List<String> pages = new ArrayList<>();
    for (int page = 1; page <= 5; page++) {
      pages.addAll(keys(search(query.page(page, 7))));
    }
    assertThat(keys(search(query.skip(0, 35)))).isEqualTo(pages);
    assertThat(keys(search(query.skip(10, 3)))).isEqualTo(pages.subList(10, 13));
  }

  @Test
  void severalSortsDecideOneAfterTheOther() throws Exception {
    List<List<@Nullable Object>> expected =
        GardenFiles.query(
            garden,
            "SELECT a.accession_no FROM accession a LEFT JOIN taxon t ON t.id = a.taxon_id WHERE"
                + " a.status IN ('planted', 'nursery') ORDER BY a.height_cm IS NULL, a.height_cm"
                + " DESC, a.planted_on IS NULL, a.planted_on DESC, a.accession_no LIMIT 50");
    SearchAnswer answer = search(SearchQuery.words("").sort("tallest", "newest").page(1, 50));
    assertThat(keys(answer))
        .isEqualTo(expected.stream().map(row -> String.valueOf(row.getFirst())).toList());
    assertThat(service.get(SEARCH + "?sort=best&sort=name").body()).contains("put it last");
  }

  @Test
  void linksLeadThroughAllResultsAndBack() throws Exception {
    for (String how : List.of("page=1&size=25", "skip=0&top=25")) {
      List<String> met = new ArrayList<>();
      String at = "?q=&sort=name&" + how;
      String former = "";
      while (at != null) {
        HttpResponse<String> answer = service.get(SEARCH + at);
        JsonMapper.shared()
            .readTree(answer.body())
            .get("results")
            .forEach(result -> met.add(result.get("key").asString()));
        String links = answer.headers().firstValue("Link").orElse("");
        assertThat(links.contains("rel=\"prev\"")).isEqualTo(!former.isEmpty());
        former = at;
        Matcher next = NEXT.matcher(links);
        at = next.find() ? next.group(1) : null;
      }
      assertThat(met).doesNotHaveDuplicates().hasSize((int) search(SearchQuery.words("")).found());
    }
  }

  @Test
  void anAnswerIsNotSentAgainUntilSomethingChanges() throws Exception {
    HttpResponse<String> first = service.get(SEARCH + "?q=maple");
    String tag = first.headers().firstValue("ETag").orElseThrow();
    assertThat(first.headers().firstValue("Cache-Control")).contains("no-cache, private");
    HttpResponse<String> same = service.send("GET", SEARCH + "?q=maple", "", "If-None-Match", tag);
    assertThat(same.statusCode()).isEqualTo(304);
    assertThat(same.body()).isEmpty();
    assertThat(same.headers().firstValue("ETag")).contains(tag);
    assertThat(service.send("GET", SEARCH + "?q=fern", "", "If-None-Match", tag).statusCode())
        .isEqualTo(200);
    GardenFiles.run(
        garden, "UPDATE accession SET notes = 'maple, moved' WHERE accession_no = 'QB-00001'");
    RunningService.await(
        () ->
            service.send("GET", SEARCH + "?q=maple", "", "If-None-Match", tag).statusCode() == 200);
  }

  @Test
  void theLeastTellingWordsAreLeftOut() {
    assertThat(search(SearchQuery.words("shade fern xylophone")).found()).isZero();
    SearchAnswer without = search(SearchQuery.words("shade fern xylophone").relax(1));
    assertThat(without.leftOut()).containsExactly("xylophone");
    assertThat(keys(without)).isEqualTo(keys(search(SearchQuery.words("shade fern"))));

    long enough = search(SearchQuery.words("shade fern")).found();
    SearchAnswer asIs = search(SearchQuery.words("shade fern").relax(1));
    assertThat(asIs.leftOut()).isNull();
    assertThat(asIs.found()).isEqualTo(enough);

    // The more frequent word goes first.
    long shade = search(SearchQuery.words("shade")).found();
    long fern = search(SearchQuery.words("fern")).found();
    SearchAnswer more = search(SearchQuery.words("shade fern").relax((int) enough + 1));
    assertThat(more.leftOut()).containsExactly(shade > fern ? "shade" : "fern");
    assertThat(more.found()).isEqualTo(Math.min(shade, fern));

    assertThat(search(SearchQuery.words("\"xylophone fern\" shade").relax(1)).found()).isZero();
  }

  @Test
  void wordsAndLanguageMayDifferFromTheEndpoint() {
    long all = search(SearchQuery.words("shade fern")).found();
    long any = search(SearchQuery.words("shade fern").mustMatch("any")).found();
    long one = search(SearchQuery.words("shade fern").mustMatch("1")).found();
    assertThat(any).isGreaterThan(all).isEqualTo(one);

    SearchAnswer german = search(SearchQuery.words("Wurmfarn").language("de-AT"));
    assertThat(german.found()).isPositive();
    assertThat(search(SearchQuery.words("Wurmfarn").language("en")).found())
        .isLessThan(german.found());
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          ?qq=fern                 | unknown-parameter | has no parameter 'qq' | q
          ?highlight=false         | unknown-parameter | has no parameter 'highlight' | highlights
          ?typing=yes              | bad-value         | neither true nor false |
          ?top=many                | bad-value         | is not a number for 'top' |
          ?relax=0                 | bad-value         | relax is a number of results from 1 to 100 |
          ?words=most              | bad-value         | none of all, any |
          ?page=2&skip=20          | bad-page          | or by after |
          ?skip=-1                 | bad-page          | counts from 0 |
          ?top=101                 | bad-size          | top is 0 to 100 |
          ?fields=nme              | unknown-field     | has no shown field 'nme' | name
          ?counts=famly            | unknown-facet     | has no facet 'famly' | family
          ?language=it             | unknown-language  | en, de, fr, ja |
          /suggest?q=f&sizes=3     | unknown-parameter | completions has no parameter 'sizes' | size
          /facets/family?beginz=a  | unknown-parameter | has no parameter 'beginz' |
          """)
  void whatIsWrongIsSaid(String call, String type, String detail, @Nullable String suggestion)
      throws Exception {
    HttpResponse<String> answer = service.get(SEARCH + call);
    assertThat(answer.statusCode()).isEqualTo(400);
    JsonNode problem = JsonMapper.shared().readTree(answer.body());
    assertThat(problem.get("type").asString()).endsWith("/" + type);
    assertThat(problem.get("detail").asString()).contains(detail);
    if (suggestion != null) {
      assertThat(problem.get("suggestion").asString()).isEqualTo(suggestion);
    }
  }

  @Test
  void aBodyHasTheSameKeys() throws Exception {
    String get =
        service
            .get(SEARCH + "?q=shade+fern+xylophone&relax=2&sort=name&top=3&skip=1&fields=name")
            .body();
    String post =
        service
            .post(
                SEARCH,
                "{\"q\": \"shade fern xylophone\", \"relax\": 2, \"sort\": \"name\", \"top\": 3,"
                    + " \"skip\": 1, \"fields\": [\"name\"]}")
            .body();
    Pattern own = Pattern.compile("\"(id|millis|time)\":[^,}]*");
    assertThat(own.matcher(post).replaceAll("")).isEqualTo(own.matcher(get).replaceAll(""));
    assertThat(service.post(SEARCH, "{\"reelax\": 2}").body())
        .contains("unknown-key")
        .contains("\"suggestion\":\"relax\"");
  }

  @Test
  void oneCallSearchesSeveralEndpoints() throws Exception {
    service.client.apply(
        Map.of(
            "bed-search.yaml",
            """
            endpoint: bed-search
            index: plants
            search: {notes: 1}
            show: [bed]
            """));
    JsonNode answers =
        get("/search?endpoint=plant-search&endpoint=bed-search&endpoint=no-search&q=shade&size=2")
            .get("answers");
    assertThat(Optional.of(answers.propertyNames().stream().toList()))
        .contains(List.of("plant-search", "bed-search", "no-search"));
    assertThat(answers.get("plant-search").get("answer").get("total"))
        .isEqualTo(get(SEARCH + "?q=shade").get("total"));
    assertThat(answers.get("bed-search").get("answer").get("results").get(0).get("fields"))
        .hasSize(1);
    assertThat(answers.get("no-search").get("problem").get("type").asString())
        .endsWith("/unknown-endpoint");
    JsonNode posted =
        JsonMapper.shared()
            .readTree(
                service
                    .post(
                        "/search?endpoint=plant-search&endpoint=bed-search",
                        "{\"q\": \"shade\", \"size\": 2, \"where\": \"height_cm < 50\"}")
                    .body())
            .get("answers");
    assertThat(posted.get("bed-search").get("answer").get("total").get("count").asLong())
        .isPositive();
    assertThat(service.get("/search?q=fern").body()).contains("names 1 to 10");
  }
}
