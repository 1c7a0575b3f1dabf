package org.mnemex.client;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.Headers;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CompletionException;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.json.JsonMapper;

/** What the client sends, and what it makes of answers, bad ones included. */
class MnemexClientTest {
  private static final String PROBLEM =
      """
      {"type": "/problems/unknown-sort", "title": "Bad Request", "status": 400,
       "detail": "there is no sort order 'newst'", "suggestion": "newest", "later": {"more": 1}}
      """;

  @TempDir private Path folder;
  private HttpServer server;
  private MnemexClient client;
  private int status = 200;
  private @Nullable String retryAfter;

  /** Refusals that come before the answer. */
  private final Deque<Integer> refusals = new ArrayDeque<>();

  private String answer = "{}";

  /** What was asked: method, path, header fields, body. */
  private record Asked(String method, String path, Headers fields, String body) {}

  private final List<Asked> asked = new ArrayList<>();

  @BeforeEach
  void start() throws IOException {
    server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
    server.createContext("/", this::handle);
    server.start();
    client = client(null);
  }

  @AfterEach
  void stop() {
    client.close();
    server.stop(0);
  }

  private MnemexClient client(@Nullable String key) {
    return new MnemexClient(
        URI.create("http://127.0.0.1:" + server.getAddress().getPort()), "jörg@garden", key);
  }

  private void handle(HttpExchange exchange) throws IOException {
    try (exchange) {
      asked.add(
          new Asked(
              exchange.getRequestMethod(),
              exchange.getRequestURI().toString(),
              exchange.getRequestHeaders(),
              new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8)));
      Integer refusal = refusals.poll();
      byte[] bytes = (refusal == null ? answer : "{}").getBytes(StandardCharsets.UTF_8);
      if (retryAfter != null) {
        exchange.getResponseHeaders().add("Retry-After", retryAfter);
      }
      exchange.sendResponseHeaders(
          refusal == null ? status : refusal, bytes.length == 0 ? -1 : bytes.length);
      exchange.getResponseBody().write(bytes);
    }
  }

  @Test
  void aSearchIsSentAsItWasNarrowed() {
    answer = "{\"total\": {\"count\": 7, \"exact\": true}, \"results\": [], \"facets\": {}}";
    SearchQuery query =
        SearchQuery.words("shade fern")
            .choose("family", "Rosaceae")
            .choose("family", "Ericaceae")
            .where("height_cm < 50")
            .sort("newest")
            .page(2, 10)
            .near("51.2,-0.3")
            .trueFor("p:1");
    assertThat(client.search("plant/search", query).total().count()).isEqualTo(7);
    assertThat(asked.getFirst().path()).isEqualTo("/search/plant%2Fsearch");
    assertThat(JsonMapper.shared().readTree(asked.getFirst().body()))
        .isEqualTo(
            JsonMapper.shared()
                .readTree(
                    """
                    {"q": "shade fern", "where": "height_cm < 50",
                     "facets": {"family": ["Rosaceae", "Ericaceae"]}, "sort": ["newest"],
                     "page": 2, "size": 10, "near": "51.2,-0.3", "true_for": "p:1"}
                    """));
  }

  @Test
  void numbersOfCallsHaveTheDigitsOfHttpWhateverTheLanguageOfTheCaller() {
    Locale usual = Locale.getDefault();
    Locale.setDefault(Locale.of("ar", "EG"));
    try {
      client.differences("index", "plants", 17, 18);
      assertThat(asked.getLast().path()).endsWith("?from=17&to=18");
    } finally {
      Locale.setDefault(usual);
    }
  }

  @Test
  void theCallerIsNamedAndTheKeySent() {
    answer = "[]";
    client.indexes();
    assertThat(asked.getLast().fields()).doesNotContainKey("Authorization");
    assertThat(asked.getLast().fields().get("From")).containsExactly("j?rg@garden");
    try (MnemexClient keyed = client("mnemex_key")) {
      keyed.indexes();
    }
    assertThat(asked.getLast().fields().get("Authorization")).containsExactly("Bearer mnemex_key");
  }

  @Test
  void partsOfACompositeKeyStayPartsOfThePath() {
    client.record("plants", "a b/c~1d");
    assertThat(asked.getFirst().path()).isEqualTo("/api/indexes/plants/records/a%20b/c%7E1d");
  }

  @Test
  void aProblemIsThrownAsTheServiceWroteIt() {
    status = 400;
    answer = PROBLEM;
    assertThatThrownBy(() -> client.search("plants", SearchQuery.words("")))
        .isInstanceOfSatisfying(
            ProblemException.class,
            e -> {
              assertThat(e.problem().type()).isEqualTo("/problems/unknown-sort");
              assertThat(e.problem().suggestion()).isEqualTo("newest");
            })
        .hasMessage("there is no sort order 'newst'");
    assertThatThrownBy(() -> client.export("plants")).isInstanceOf(ProblemException.class);
  }

  @ParameterizedTest
  @CsvSource({"502, <html>Bad gateway</html>", "500, ''", "404, '[1'"})
  void anAnswerThatIsNoProblemDocumentKeepsItsStatus(int refusal, String body) {
    status = refusal;
    answer = body;
    assertThatThrownBy(client::indexes)
        .isInstanceOfSatisfying(
            ProblemException.class, e -> assertThat(e.problem().status()).isEqualTo(refusal))
        .hasMessage("HTTP status " + refusal);
  }

  @Test
  void anythingElseThatAnswersIsNoService() {
    answer = "<html>Welcome</html>";
    assertThatThrownBy(client::indexes).isInstanceOf(UnreachableException.class);
  }

  @Test
  void aServiceThatIsNotThereIsNamed() {
    server.stop(0);
    assertThatThrownBy(client::indexes)
        .isInstanceOf(UnreachableException.class)
        .hasMessageContaining("no service answers at http://127.0.0.1:")
        .hasMessageContaining("MNEMEX_URL");
    assertThat(client.isUp()).isFalse();
  }

  @Test
  void eachRefusedLineOfAPushIsTold() throws IOException {
    Path file = Files.writeString(folder.resolve("tools.CSV"), "id,name\n1,rake\n,spade\n");
    answer =
        """
        {"line": 2, "key": "1"}
        {"line": 3, "problem": "its key 'id' is missing"}
        {"taken": 1, "refused": 1, "position": "p:5"}
        """;
    List<String> refused = new ArrayList<>();
    Pushed pushed =
        client.push("tools").file(file, "replace", (line, why) -> refused.add(line + ": " + why));
    assertThat(pushed).isEqualTo(new Pushed(1, 1, "p:5"));
    assertThat(refused).containsExactly("3: its key 'id' is missing");
    assertThat(asked.getFirst().fields().get("Content-Type")).containsExactly("text/csv");
    assertThat(asked.getFirst().body()).isEqualTo("id,name\n1,rake\n,spade\n");
  }

  /** A plant as an application writes it. */
  private record Plant(
      String key, String latinName, List<String> labels, @Nullable Integer heightCm) {}

  private static final String FERNS =
      """
      {"total": {"count": 2, "exact": true}, "facets": {}, "results": [
        {"key": "QB-1", "fields": {"latin_name": "Asplenium", "labels": "tall", "height_cm": 30}},
        {"key": "QB-2", "fields": {"latin_name": "Dryopteris", "labels": ["old", "rare"], "bed": 3}}
      ]}
      """;

  @Test
  void resultsBecomeRecordsOfTheCaller() {
    answer = FERNS;
    TypedResults<Plant> found = client.search("plants", SearchQuery.words("fern"), Plant.class);
    assertThat(found.answer().found()).isEqualTo(2);
    assertThat(found.results())
        .containsExactly(
            new Plant("QB-1", "Asplenium", List.of("tall"), 30),
            new Plant("QB-2", "Dryopteris", List.of("old", "rare"), null));
    assertThat(client.searchAsync("plants", SearchQuery.words("fern"), Plant.class).join())
        .isEqualTo(found);
    answer = FERNS.replace("\"height_cm\": 30", "\"height_cm\": \"tall\"");
    assertThatThrownBy(() -> client.search("plants", SearchQuery.words("fern"), Plant.class))
        .isInstanceOf(IllegalArgumentException.class)
        .hasMessageContaining("are not a Plant");
    status = 400;
    answer = PROBLEM;
    assertThatThrownBy(
            () -> client.searchAsync("plants", SearchQuery.words("fern"), Plant.class).join())
        .isInstanceOf(CompletionException.class)
        .hasCauseInstanceOf(ProblemException.class);
  }

  @Test
  void aBusyServiceIsAskedAgain() {
    retryAfter = "0";
    try (MnemexClient patient = patient(2)) {
      refusals.addAll(List.of(503, 429));
      answer = FERNS;
      assertThat(patient.search("plants", SearchQuery.words("fern")).found()).isEqualTo(2);
      assertThat(asked).hasSize(3).allMatch(one -> one.body().contains("fern"));

      refusals.addAll(List.of(503, 503, 503));
      assertThatThrownBy(() -> patient.search("plants", SearchQuery.words("")))
          .isInstanceOf(ProblemException.class);
      assertThat(asked).hasSize(6);

      // A change may have been made although it was answered with an error.
      refusals.add(503);
      assertThatThrownBy(() -> patient.promote("plants")).isInstanceOf(ProblemException.class);
      assertThat(asked).hasSize(7);

      retryAfter = "3600";
      refusals.add(429);
      assertThatThrownBy(patient::indexes).isInstanceOf(ProblemException.class);
      assertThat(asked).hasSize(8);
    }
    assertThat(refusals).isEmpty();
  }

  private MnemexClient patient(int retries) {
    return new MnemexClient(
        client.service(), ClientOptions.usual().retries(retries, Duration.ofSeconds(1)));
  }

  @Test
  void severalEndpointsAnswerForThemselves() {
    answer =
        """
        {"answers": {"plants": {"answer": {"total": {"count": 2, "exact": true}, "results": []}},
                     "beds": {"problem": {"type": "/problems/unknown-endpoint", "status": 404}}}}
        """;
    Map<String, EndpointAnswer> answers =
        client.search(List.of("plants", "beds"), SearchQuery.words("fern"));
    assertThat(asked.getFirst().path()).isEqualTo("/search?endpoint=plants&endpoint=beds");
    assertThat(answers.keySet()).containsExactly("plants", "beds");
    assertThat(answers.get("plants").answer().found()).isEqualTo(2);
    assertThat(answers.get("beds").problem().status()).isEqualTo(404);
  }

  @Test
  void aKeyIsNotShown() {
    assertThat(ClientOptions.usual().key("mnemex_secret").toString()).doesNotContain("secret");
  }
}
