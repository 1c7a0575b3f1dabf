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
import java.util.ArrayList;
import java.util.List;
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
      byte[] bytes = answer.getBytes(StandardCharsets.UTF_8);
      exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
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
        client.push("tools", file, "replace", (line, why) -> refused.add(line + ": " + why));
    assertThat(pushed).isEqualTo(new Pushed(1, 1, "p:5"));
    assertThat(refused).containsExactly("3: its key 'id' is missing");
    assertThat(asked.getFirst().fields().get("Content-Type")).containsExactly("text/csv");
    assertThat(asked.getFirst().body()).isEqualTo("id,name\n1,rake\n,spade\n");
  }
}
