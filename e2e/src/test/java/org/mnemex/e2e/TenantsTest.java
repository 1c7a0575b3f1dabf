package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URLEncoder;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.SearchQuery;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Two tenants in one index: whatever is asked under the token of one shows no value, no count and
 * no key of the other.
 */
class TenantsTest {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final String SECRET = "the tenants' shared secret, 32 bytes or more";
  private static final int CALLS = Integer.getInteger("mnemex.tenant.calls", 10_000);
  private static final int OWN = 60;
  private static final int OTHERS = 300;

  /** In every value of the other tenant. */
  private static final String MARK = "zeta";

  private static final List<String> WORDS =
      List.of("spade", "rake", "hoe", "barrow", "fork", "sieve", "trowel", "shears");
  private static final String DEFINITIONS =
      """
      source: shed
      kind: push
      ---
      index: tools
      source: shed
      record: {key: [id]}
      fields:
        tenant: {from: tenant, type: exact, uses: [filter, facet]}
        name: {from: name, type: text, uses: [search, show, suggest]}
        maker: {from: maker, type: exact, uses: [search, facet, filter, show]}
        bought: {from: bought, type: date, uses: [facet, filter, sort, show]}
        price: {from: price, type: integer, uses: [facet, filter, sort, show]}
      ---
      phrases: offers
      weights: {rake %1$s: 9, spade: 4, sieve: 3}
      ---
      endpoint: tool-search
      index: tools
      typos: true
      facets:
        maker: {field: maker, limit: 50, none: unknown}
        year: {field: bought, every: year, empty: true}
        prices: {field: price, percentiles: [50, 90]}
        steps: {field: price, every: 10}
      sorts: {best: relevance, cheapest: price, newest: -bought}
      groups: {maker: {field: maker, best: 2}}
      countable: [tenant]
      completions:
        searched: {least: 1, most: 10}
        phrases: {of: [offers], most: 10}
        facets: {of: [maker], most: 10}
        words: {most: 10}
        values: {}
      show: [name, maker, bought, price]
      highlights: {name: whole}
      ---
      curation: sale
      endpoint: tool-search
      rules:
        spades: {when: {contains: spade}, first: [%1$s7, a7], hide: [%1$s8, a8]}
        rakes: {when: {words: rake}, lift: {where: "tenant = 'b'", by: 100}, add: [OR, number]}
      """
          .formatted(MARK);

  @TempDir private static Path folder;
  private static RunningService service;
  private static String token;

  @BeforeAll
  static void start() throws Exception {
    service = RunningService.secured(folder, "--mnemex.tokens.secret=" + SECRET);
    service.client.apply(Map.of("tools.yaml", DEFINITIONS));
    service.awaitLive("tools");
    Random random = new Random(7);
    List<String> lines = new ArrayList<>();
    for (int i = 0; i < OWN + OTHERS; i++) {
      boolean own = i < OWN;
      String word = WORDS.get(random.nextInt(WORDS.size()));
      // The other tenant's words differ by few letters, and its numbers lie elsewhere.
      lines.add(
          JSON.writeValueAsString(
              Map.of(
                  "id", own ? "a" + i : MARK + i,
                  "tenant", own ? "a" : "b",
                  "name", own ? word + " number " + i : word + "x " + MARK + " " + word + " " + i,
                  "maker", own ? "alder" + i % 5 : MARK + i % 40,
                  "bought", (own ? 2001 + i % 5 : 2011 + i % 9) + "-05-04",
                  "price", own ? 10 + i % 50 : 5_000 + i)));
    }
    Path file = folder.resolve("tools.ndjson");
    Files.write(file, lines);
    String position =
        service.client.push("tools").file(file, "replace", (line, why) -> {}).position();
    assertThat(
            service
                .client
                .search("tool-search", SearchQuery.words("").trueFor(position))
                .total()
                .count())
        .isEqualTo(OWN + OTHERS);
    // Words of the other tenant, which nobody else is told.
    service.client.search("tool-search", SearchQuery.words("spade " + MARK));
    token = SignedToken.of(SECRET, List.of("tool-search"), "tenant = 'a'", 3_600);
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static HttpResponse<String> ask(String method, String path, String body) {
    return service.send(method, path, body, "Authorization", "Bearer " + token);
  }

  @Test
  void nothingOfAnotherTenantIsEverShown() throws IOException {
    Random random = new Random(11);
    List<String> cursors = new ArrayList<>();
    // A cursor of somebody who sees everything must not help either.
    cursors.add(service.client.search("tool-search", SearchQuery.words("spade").page(1, 3)).next());
    int answered = 0;
    for (int i = 0; i < CALLS; i++) {
      HttpResponse<String> answer = call(random, cursors);
      assertThat(answer.statusCode()).isNotEqualTo(500);
      // What was asked comes back in some answers, so nobody asks for the mark itself.
      assertThat(answer.body()).doesNotContain(MARK);
      if (answer.statusCode() == 200) {
        answered++;
        JsonNode one = JSON.readTree(answer.body());
        check(one.has("answers") ? one.at("/answers/tool-search/answer") : one, cursors);
      }
    }
    assertThat(answered).isGreaterThan(CALLS / 2);
  }

  private static void check(JsonNode answer, List<String> cursors) {
    if (answer.has("total")) {
      assertThat(answer.path("total").path("count").asLong()).isLessThanOrEqualTo(OWN);
      if (answer.path("next").isString() && cursors.size() < 50) {
        cursors.add(answer.path("next").asString());
      }
    }
    answer
        .path("facets")
        .properties()
        .forEach(
            facet -> {
              facet
                  .getValue()
                  .path("values")
                  .forEach(
                      value -> assertThat(value.path("count").asLong()).isLessThanOrEqualTo(OWN));
              JsonNode statistics = facet.getValue().path("statistics");
              if (statistics.has("greatest")) {
                assertThat(statistics.path("greatest").asLong()).isLessThan(100);
              }
            });
    answer
        .path("results")
        .forEach(result -> assertThat(result.path("key").asString()).startsWith("a"));
  }

  private static HttpResponse<String> call(Random random, List<String> cursors) {
    String word = WORDS.get(random.nextInt(WORDS.size()));
    String q =
        switch (random.nextInt(6)) {
          case 0 -> word.substring(0, 2 + random.nextInt(2)) + "*";
          case 1 -> word + "x";
          case 2 -> "\"" + word + " number\"";
          case 3 -> "";
          case 4 -> word + " OR " + random.nextInt(400);
          default -> word;
        };
    String search = "/search/tool-search";
    String encoded = URLEncoder.encode(q, StandardCharsets.UTF_8);
    int price = random.nextInt(6_000);
    return switch (random.nextInt(14)) {
      case 0 -> ask("GET", search + "/suggest?size=50&q=" + word.substring(0, 2), "");
      case 1 -> ask("GET", search + "/facets/maker?begins=" + "az".charAt(random.nextInt(2)), "");
      case 2 -> ask("POST", search + "/explain?key=" + key(random), "{\"q\": \"" + word + "\"}");
      case 3 -> ask("GET", search + "?similar_to=" + key(random), "");
      case 9 -> ask("GET", search + "/records?key=" + key(random) + "&key=" + key(random), "");
      case 4 -> {
        String cursor = cursors.get(random.nextInt(cursors.size()));
        yield ask("GET", search + "?q=" + encoded + "&after=" + cursor, "");
      }
      case 5 ->
          ask(
              "POST",
              search,
              "{\"where\": \"price > %d OR NOT tenant = 'a' OR maker LIKE 'z%%'\", \"size\": 50}"
                  .formatted(price));
      case 6 -> ask("GET", search + "?group=maker&q=" + encoded, "");
      case 7 -> ask("GET", search + "?year=2015&steps=5000..5010&q=" + encoded, "");
      case 10 ->
          ask("GET", search + "?relax=50&q=" + encoded + "+number+" + random.nextInt(400), "");
      case 11 -> ask("GET", "/search?endpoint=tool-search&counts=tenant&q=" + encoded, "");
      case 12 -> ask("GET", search + "?counts=tenant&total=false&skip=3&q=" + encoded, "");
      case 8 -> ask("GET", search + "?sort=newest&size=100&q=" + encoded, "");
      default -> ask("GET", search + "?q=" + encoded, "");
    };
  }

  /**
   * A key of either tenant; the other's is only asked for, so its mark is taken out of the path.
   */
  private static String key(Random random) {
    return random.nextBoolean() ? "a" + random.nextInt(OWN) : "b" + random.nextInt(OTHERS);
  }

  /** The answer for a record that is hidden and for one that does not exist are the same. */
  @Test
  void aHiddenRecordDoesNotExist() {
    for (String path :
        List.of("/explain?key=", "?similar_to=", "/records/", "/records?key=a1&key=")) {
      String method = path.startsWith("/explain") ? "POST" : "GET";
      HttpResponse<String> hidden = ask(method, "/search/tool-search" + path + MARK + "100", "{}");
      HttpResponse<String> none = ask(method, "/search/tool-search" + path + "none", "{}");
      assertThat(hidden.statusCode()).isEqualTo(none.statusCode());
      assertThat(withoutTime(hidden).replace(MARK + "100", "none")).isEqualTo(withoutTime(none));
    }
  }

  /** Calls have an id each, and the index may have become true for a later time between two. */
  private static String withoutTime(HttpResponse<String> answer) {
    return answer.body().replaceAll("\"(time|request|id)\":\"[^\"]*\"", "");
  }

  @Test
  void theFiltersOfKeyAndEndpointHoldTogether() throws Exception {
    String key =
        service
            .client
            .access()
            .create(KeyRequest.search("a shop", List.of("tool-search"), "tenant = 'b'"))
            .secret();
    JsonNode answer =
        JSON.readTree(
            service
                .send("GET", "/search/tool-search", "", "Authorization", "Bearer " + key)
                .body());
    assertThat(answer.path("total").path("count").asInt()).isEqualTo(OTHERS);
    String wrong = SignedToken.of(SECRET, List.of("tool-search"), "no_field = 1", 3_600);
    assertThat(
            service
                .send("GET", "/search/tool-search", "", "Authorization", "Bearer " + wrong)
                .body())
        .contains("the filter of this key or token does not fit endpoint 'tool-search'");
  }
}
