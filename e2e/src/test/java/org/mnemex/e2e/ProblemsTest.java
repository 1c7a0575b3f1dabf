package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.assertj.core.api.SoftAssertions;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.SearchQuery;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Every kind of problem is documented, and can be provoked. */
class ProblemsTest {
  /** Requests, each with the type of its problem before it: {@code type METHOD path body}. */
  private static final String REQUESTS =
      """
      bad-access-key        POST  /api/keys                                    {"name": "x", "right": "owner"}
      bad-act               POST  /api/indexes/tools/records?act=zap           {}
      bad-after             GET   /search/plant-search?after=AAAA
      bad-answer-id         POST  /search/plant-search/chosen                  {"id": "rose"}
      bad-begins            GET   /search/plant-search/facets/family?begins=LONG
      bad-body              POST  /api/check                                   {
      bad-content-type      POST  /api/indexes/tools/records                   PLAIN
      bad-definition        POST  /api/plan                                    {"files": [{"name": "a.yaml", "text": "index: a"}]}
      bad-facet             GET   /search/plant-search/facets/height?begins=a
      bad-facet-value       GET   /search/plant-search?year=soon
      bad-filter            POST  /search/plant-search                         {"where": "famly = 'x'"}
      bad-insights          GET   /api/endpoints/plant-search/insights?report=often
      bad-near              GET   /search/plant-search?near=here
      bad-page              GET   /search/plant-search?page=0
      bad-parameters        GET   /search/plant-search?q=%FF
      bad-position          GET   /search/plant-search?true_for=later
      bad-record            PUT   /api/indexes/tools/records/t1                []
      bad-records           POST  /api/draft                                   {"name": "x", "format": "csv", "sample": "a,b\\n1"}
      bad-request           POST  /search/plant-search/explain                 {}
      bad-sample            POST  /api/indexes/plants/audits                   {"sample": "much"}
      bad-size              GET   /search/plant-search?size=-1
      bad-suggest           GET   /search/plant-search/suggest?q=fern&size=999
      bad-top               POST  /api/endpoints/plant-search/compare          {"queries": ["q=fern"], "left": 1, "right": 1, "top": 0}
      bad-value             GET   /search/plant-search?page=none
      body-too-large        POST  /api/check                                   HUGE
      database-is-the-truth PUT   /api/indexes/plants/records/QB-00001         {}
      definition-in-use     DELETE /api/definitions/index/plants
      edition-refused       POST  /api/indexes/plants/promote                  {}
      job-ended             POST  /api/jobs/1/cancel                          {}
      key-cannot-change     PATCH /api/indexes/tools/records?where=kind%20IS%20NULL {"id": "t2"}
      method-not-allowed    PUT   /search/plant-search                         {}
      no-draft              GET   /api/sources/garden/draft?table=nothing
      no-files              POST  /api/definitions                             {"files": []}
      no-index              POST  /api/preview                                 {"files": []}
      no-key                POST  /api/session                                 {"key": "wrong"}
      no-near               GET   /search/plant-search?sort=nearest
      no-other-edition      POST  /api/endpoints/plant-search/compare          {"queries": ["q=fern"]}
      no-queries            POST  /api/endpoints/tool-search/compare           {"queries": [], "left": 1, "right": 1}
      not-acceptable        GET   /api/indexes                                 PICTURE
      not-begun             POST  /api/definitions                             BLOCKED
      not-found             GET   /nothing
      not-in-quarantine     POST  /api/indexes/plants/quarantine/dismiss?key=QB-00001 {}
      not-publishing        POST  /api/nodes/fern-house {"store": {"editions": []}}
      not-yet-true          GET   /search/plant-search?true_for=FUTURE
      nothing-to-compare    GET   /search/kind-search?similar_to=r1
      plan-outdated         POST  /api/definitions                             {"files": [{"name": "a.yaml", "text": "analyser: a\\ntokeniser: words"}], "plan": "old"}
      query-refused         POST  /search/plant-search                         CLAUSES
      query-too-long        GET   /search/plant-search?q=LONG
      reader-in-use         DELETE /api/sources/garden/readers/READER
      refused               POST  /api/check                                   FOREIGN
      repeated-parameter    GET   /search/plant-search?page=1&page=2
      source-unavailable    GET   /api/sources/away/tables
      text-too-long         POST  /search/plant-search                         SIMILAR
      too-deep              GET   /search/plant-search?page=9999
      too-large             POST  /api/analysers/try                           TEXT
      too-many-endpoints    GET   /search?q=fern
      too-many-keys         GET   /search/plant-search/records?MANY
      too-many-records      PATCH /api/indexes/tools/records?where=kind%20=%20%27rake%27&count_only=true {}
      too-many-choices      GET   /search/plant-search?CHOICES
      unknown-access-key    DELETE /api/keys/nothing
      unknown-analyser      POST  /api/analysers/try                           {"text": "a", "analysers": ["klingon"]}
      unknown-definition    GET   /api/definitions/index/nothing
      unknown-edition       POST  /api/endpoints/plant-search/compare          {"queries": ["q=fern"], "left": 1, "right": 9}
      unknown-backup        GET   /api/backups/nothing
      unknown-endpoint      GET   /search/nothing
      unknown-facet         GET   /search/plant-search/facets/nothing
      unknown-field         POST  /api/indexes/plants/fields/nothing/try       {"analyser": "words"}
      unknown-group         GET   /search/plant-search?group=nothing
      unknown-index         GET   /api/indexes/nothing
      unknown-job           GET   /api/jobs/999999
      unknown-key           POST  /api/check                                   {"fils": []}
      unknown-kind          GET   /api/schemas/nothing
      unknown-language      GET   /search/plant-search?language=it
      unknown-parameter     GET   /search/plant-search?nothing=1
      unknown-reader        DELETE /api/sources/garden/readers/nothing
      unknown-record        GET   /search/plant-search?similar_to=nothing
      unknown-scorecard     GET   /api/scorecards/nothing/history
      unknown-sort          GET   /search/plant-search?sort=nothing
      unknown-source        GET   /api/sources/nothing/tables
      unknown-table         GET   /api/sources/garden/tables/nothing/rows
      unknown-version       GET   /api/definitions/index/plants/differences?from=1&to=99
      unsupported-media-type POST /api/check                                   PLAIN
      """;

  private static final String ENDPOINTS =
      "service/src/test/java/org/mnemex/service/search/EndpointsTest.java";
  private static final String HANDLER =
      "service/src/test/java/org/mnemex/service/web/ProblemHandlerTest.java";
  private static final String SLOTS =
      "service/src/test/java/org/mnemex/service/compute/SearchSlotsTest.java";
  private static final String ACCESS = "e2e/src/test/java/org/mnemex/e2e/AccessTest.java";
  private static final String CALLS =
      "service/src/test/java/org/mnemex/service/compute/BoundedCallsTest.java";

  /** What needs a full disk, a slow machine or a moment of a build: tests that provoke it. */
  private static final Map<String, String> ELSEWHERE =
      Map.ofEntries(
          Map.entry(
              "audit-running", "service/src/test/java/org/mnemex/service/status/AuditsTest.java"),
          Map.entry("body-too-slow", "e2e/src/test/java/org/mnemex/e2e/HttpEdgesTest.java"),
          Map.entry("endpoint-waits-for-edition", ENDPOINTS),
          Map.entry("index-being-built", ENDPOINTS),
          Map.entry("index-damaged", ENDPOINTS),
          Map.entry("index-not-running", ENDPOINTS),
          Map.entry("internal-error", HANDLER),
          Map.entry("not-allowed", ACCESS),
          Map.entry("not-written", HANDLER),
          Map.entry("one-shard", "e2e/src/test/java/org/mnemex/e2e/ShardsTest.java"),
          Map.entry("search-node", "e2e/src/test/java/org/mnemex/e2e/SearchNodesTest.java"),
          Map.entry("search-timeout", HANDLER),
          Map.entry("shard-away", "e2e/src/test/java/org/mnemex/e2e/ShardsTest.java"),
          Map.entry("stopping", SLOTS),
          Map.entry("too-busy", SLOTS),
          Map.entry("too-many-calls", ACCESS),
          Map.entry("too-slow", CALLS));

  /** Records that a filter may change in one call. */
  private static final int MAX_CHANGED = 100_000;

  private static final HttpClient HTTP = HttpClient.newHttpClient();
  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 60);
    service = RunningService.start(folder);
    service.applyGarden();
    service.client.apply(
        Map.of(
            "tools.yaml",
            """
            source: shed
            kind: push
            ---
            source: away
            kind: postgres
            host: 127.0.0.1
            port: 1
            database: away
            user: nobody
            ---
            index: tools
            source: shed
            record: {key: [id]}
            fields: {kind: {from: kind, type: exact, uses: [search, filter]}, name: {from: name, type: text, uses: [search, show]}}
            ---
            endpoint: tool-search
            index: tools
            ---
            endpoint: kind-search
            index: tools
            search: {kind: 1}
            """));
    service.awaitLive("tools");
    StringBuilder rakes = new StringBuilder();
    for (int i = 0; i <= MAX_CHANGED; i++) {
      rakes.append("{\"id\": \"r").append(i).append("\", \"kind\": \"rake\"}\n");
    }
    HttpRequest pushed =
        HttpRequest.newBuilder(URI.create(service.address() + "/api/indexes/tools/records"))
            .header("Content-Type", "application/x-ndjson")
            .POST(HttpRequest.BodyPublishers.ofString(rakes.toString()))
            .build();
    assertThat(HTTP.send(pushed, HttpResponse.BodyHandlers.ofString()).body())
        .contains("\"taken\":" + (MAX_CHANGED + 1));
    RunningService.await(
        () ->
            service.client.search("tool-search", SearchQuery.words("")).total().count()
                > MAX_CHANGED);
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  @Test
  void everyTypeIsProvoked() throws Exception {
    Map<String, JsonNode> types = types();
    Set<String> provoked = new TreeSet<>();
    SoftAssertions all = new SoftAssertions();
    for (String line : REQUESTS.lines().toList()) {
      String[] parts = line.strip().split("\\s+", 4);
      HttpResponse<String> answer = ask(parts[1], parts[2], parts.length < 4 ? "" : parts[3]);
      all.assertThat(answer.body()).as(line).contains("\"/problems/" + parts[0] + "\"");
      JsonNode meaning = JsonMapper.shared().readTree(service.get("/problems/" + parts[0]).body());
      if (answer.statusCode() != 404) {
        all.assertThat(answer.statusCode()).as(line).isEqualTo(meaning.get("status").intValue());
      }
      provoked.add(parts[0]);
    }
    for (Map.Entry<String, String> elsewhere : ELSEWHERE.entrySet()) {
      String constant = elsewhere.getKey().toUpperCase(Locale.ROOT).replace('-', '_');
      Path test = RunningService.root().resolve(elsewhere.getValue());
      all.assertThat(Files.exists(test) ? Files.readString(test) : "")
          .as(elsewhere.toString())
          .containsAnyOf(elsewhere.getKey(), constant);
      provoked.add(elsewhere.getKey());
    }
    all.assertThat(provoked).isEqualTo(types.keySet());
    all.assertAll();
  }

  /** Written anew by -Dmnemex.write. */
  @Test
  void thePageListsAllOfThem() throws Exception {
    StringBuilder page =
        new StringBuilder(
            """
            # Problems

            A call that fails answers with a problem document (RFC 9457, `application/problem+json`): `type`, `title`, `status`,
            `detail` with what is wrong and what to do, and often a `suggestion`. The types are stable; `GET /problems` lists
            them. With status 503 `Retry-After` says when to try again, where that is known. If a URL names something that does
            not exist, the status is 404 regardless of this table.

            | type | status | meaning |
            | --- | --- | --- |
            """);
    types()
        .forEach(
            (type, meaning) ->
                page.append(
                    "| `%s` | %d | %s |%n"
                        .formatted(
                            type,
                            meaning.get("status").intValue(),
                            meaning.get("meaning").stringValue())));
    Path file = RunningService.root().resolve("docs/reference/problems.md");
    if (Boolean.getBoolean("mnemex.write")) {
      Files.writeString(file, page);
    }
    assertThat(file).hasContent(page.toString());
  }

  private static Map<String, JsonNode> types() throws IOException, InterruptedException {
    Map<String, JsonNode> types = new TreeMap<>();
    for (JsonNode type : JsonMapper.shared().readTree(service.get("/problems").body())) {
      types.put(type.get("type").stringValue(), type);
    }
    return types;
  }

  private HttpResponse<String> ask(String method, String path, String body) throws Exception {
    String address = path;
    for (Map.Entry<String, String> word : words().entrySet()) {
      address = address.replace(word.getKey(), word.getValue());
    }
    HttpRequest.Builder request = HttpRequest.newBuilder(URI.create(service.address() + address));
    String sent =
        switch (body) {
          case "BLOCKED" -> {
            // Where its folder would be.
            Files.writeString(folder.resolve("mnemex-data/indexes/blocked"), "");
            yield "{\"files\": [{\"name\": \"b.yaml\", \"text\": \"index: blocked\\nsource: shed\\nrecord: {key: [id]}\\nfields: {name: {from: name, type: exact}}\"}]}";
          }
          case "CLAUSES" -> "{\"where\": \"" + "evergreen OR ".repeat(1_100) + "evergreen\"}";
          case "HUGE" -> " ".repeat(5_000_000);
          case "SIMILAR" -> "{\"similar_text\": \"" + "fern ".repeat(30_000) + "\"}";
          case "TEXT" ->
              "{\"analysers\": [\"words\"], \"text\": \"" + "fern ".repeat(200_000) + "\"}";
          case "FOREIGN", "PLAIN" -> "{}";
          case "PICTURE" -> "";
          default -> body;
        };
    request.header("Content-Type", body.equals("PLAIN") ? "text/plain" : "application/json");
    if (body.equals("PICTURE")) {
      request.header("Accept", "image/png");
    }
    if (body.equals("FOREIGN")) {
      request.header("Origin", "https://elsewhere.example");
    }
    return HTTP.send(
        request
            .method(
                method,
                sent.isEmpty()
                    ? HttpRequest.BodyPublishers.noBody()
                    : HttpRequest.BodyPublishers.ofString(sent, StandardCharsets.UTF_8))
            .build(),
        HttpResponse.BodyHandlers.ofString());
  }

  private static Map<String, String> words() throws Exception {
    Map<String, String> words = new LinkedHashMap<>();
    words.put("LONG", "a".repeat(1_100));
    words.put("MANY", "key=a&".repeat(101));
    words.put("CHOICES", "family=a&".repeat(120));
    words.put(
        "FUTURE",
        JsonMapper.shared()
                .readTree(service.get("/api/indexes/plants/feed/position").body())
                .get("position")
                .stringValue()
                .split(":")[0]
            + ":999999999");
    words.put(
        "READER",
        JsonMapper.shared()
            .readTree(service.get("/api/sources/garden/check").body())
            .get("readers")
            .get(0)
            .get("name")
            .stringValue());
    return words;
  }

  @Test
  void eachRequestHasAnIdThatItsAnswerAndTheLogName() throws Exception {
    HttpResponse<String> own = service.get("/search/plant-search?page=0");
    String id = own.headers().firstValue("X-Request-Id").orElseThrow();
    assertThat(id).matches("[0-9a-f]{16}");
    assertThat(own.body()).contains("\"request\":\"" + id + "\"");
    assertThat(service.get("/nothing").body()).contains("\"request\":");
    HttpResponse<String> given = service.post("/api/check", "{", "X-Request-Id", "shop-4711");
    assertThat(given.headers().allValues("X-Request-Id")).containsExactly("shop-4711");
    assertThat(given.body()).contains("\"request\":\"shop-4711\"");
    HttpResponse<String> forged = service.post("/api/check", "{", "X-Request-Id", "a b");
    assertThat(forged.headers().firstValue("X-Request-Id").orElseThrow()).matches("[0-9a-f]{16}");
  }
}
