package org.mnemex.client;

import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * Calls a service. May be shared between threads.
 *
 * <p>Every method throws {@link ProblemException} if the service refuses, and {@link
 * UnreachableException} if it does not answer.
 */
public final class MnemexClient implements AutoCloseable {
  private static final Duration CONNECT_TIMEOUT = Duration.ofSeconds(5);
  private static final Duration TIMEOUT = Duration.ofSeconds(60);

  private final URI service;
  private final HttpClient http =
      HttpClient.newBuilder()
          .version(HttpClient.Version.HTTP_1_1)
          .connectTimeout(CONNECT_TIMEOUT)
          .build();
  private final ObjectMapper json =
      JsonMapper.builder()
          .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
          .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
          .build();

  /**
   * @param service for example {@code http://127.0.0.1:7077}
   */
  public MnemexClient(URI service) {
    this.service = service;
  }

  public URI service() {
    return service;
  }

  /** Searches an endpoint. */
  public SearchAnswer search(String endpoint, SearchQuery query) {
    return post("/search/" + encode(endpoint), query, new TypeReference<>() {});
  }

  /** How a record's score comes about, or why it is no result. */
  public Explained explain(String endpoint, SearchQuery query, String key) {
    return post(
        "/search/" + encode(endpoint) + "/explain?key=" + encode(key),
        query,
        new TypeReference<>() {});
  }

  /** Completions of what is being typed. */
  public List<Suggested> suggest(String endpoint, String text, int size) {
    SuggestAnswer answer =
        get(
            "/search/" + encode(endpoint) + "/suggest?q=" + encode(text) + "&size=" + size,
            new TypeReference<>() {});
    return answer.suggestions;
  }

  private record SuggestAnswer(List<Suggested> suggestions) {}

  /** All indexes. */
  public List<IndexStatus> indexes() {
    return get("/api/indexes", new TypeReference<>() {});
  }

  /** The last changes of an index, newest first. */
  public List<Change> changes(String index, int limit) {
    return get(
        "/api/indexes/" + encode(index) + "/changes?limit=" + limit, new TypeReference<>() {});
  }

  /** One record from database to tokens. */
  public TracedRecord record(String index, String key) {
    // A composite key has slashes between its parts, which belong to the path.
    String path =
        String.join(
            "/", java.util.Arrays.stream(key.split("/", -1)).map(MnemexClient::encode).toList());
    return get("/api/indexes/" + encode(index) + "/records/" + path, new TypeReference<>() {});
  }

  /**
   * Begins an audit of an index's live edition; {@link #audits} says how it went.
   *
   * @param repair whether what differs shall be read again
   */
  public AuditReport audit(String index, boolean repair) {
    return audit(index, Map.of("repair", repair));
  }

  /**
   * Begins an audit of a sample.
   *
   * @param share of differing records that shall be noticed with 95 % confidence, like {@code 0.1%}
   */
  public AuditReport auditSample(String index, String share, boolean repair) {
    return audit(index, Map.of("repair", repair, "sample", share));
  }

  /** Begins an audit of a single record. */
  public AuditReport auditRecord(String index, String key, boolean repair) {
    return audit(index, Map.of("repair", repair, "key", key));
  }

  private AuditReport audit(String index, Map<String, Object> body) {
    return post("/api/indexes/" + encode(index) + "/audits", body, new TypeReference<>() {});
  }

  /** The last audits of an index, newest first. */
  public List<AuditReport> audits(String index) {
    return get("/api/indexes/" + encode(index) + "/audits", new TypeReference<>() {});
  }

  /** Records that could not be read or mapped; the first hundred by key. */
  public List<QuarantinedRecord> quarantine(String index) {
    return get("/api/indexes/" + encode(index) + "/quarantine", new TypeReference<>() {});
  }

  /** Lets the feed read the records in quarantine again; how many there are. */
  public int retryQuarantine(String index) {
    RetryAnswer answer =
        post(
            "/api/indexes/" + encode(index) + "/quarantine/retry",
            Map.of(),
            new TypeReference<>() {});
    return answer.records;
  }

  private record RetryAnswer(int records) {}

  /** Pauses the feed of an index, which goes on answering. */
  public IndexStatus pauseFeed(String index) {
    return feed(index, "pause");
  }

  /** Goes on with a paused feed. */
  public IndexStatus resumeFeed(String index) {
    return feed(index, "resume");
  }

  /** Agrees that documents go, or an edition is promoted, that were held back. */
  public IndexStatus agree(String index) {
    return feed(index, "agree");
  }

  private IndexStatus feed(String index, String act) {
    return post(
        "/api/indexes/" + encode(index) + "/feed/" + act, Map.of(), new TypeReference<>() {});
  }

  /** Where the source of an index is now, for {@link SearchQuery#trueFor}. */
  public String position(String index) {
    PositionAnswer answer =
        get("/api/indexes/" + encode(index) + "/feed/position", new TypeReference<>() {});
    return answer.position;
  }

  private record PositionAnswer(String position) {}

  /** Names of all sources. */
  public List<String> sources() {
    return get("/api/sources", new TypeReference<>() {});
  }

  /** Whether a source can be followed, and what it lacks. */
  public SourceCheck checkSource(String source) {
    return get("/api/sources/" + encode(source) + "/check", new TypeReference<>() {});
  }

  /** The tables of a source. */
  public List<SourceTable> tables(String source) {
    return get("/api/sources/" + encode(source) + "/tables", new TypeReference<>() {});
  }

  /** What analysers make of a text. */
  public List<Analysed> analyse(String text, List<String> analysers) {
    return post(
        "/api/analysers/try",
        Map.of("text", text, "analysers", analysers),
        new TypeReference<>() {});
  }

  /**
   * Applies definition files: all of them or none.
   *
   * @param files YAML by the name that errors shall use
   */
  public List<Applied> apply(Map<String, String> files) {
    List<Map<String, String>> list =
        files.entrySet().stream()
            .map(file -> Map.of("name", file.getKey(), "text", file.getValue()))
            .toList();
    ApplyAnswer answer = post("/api/definitions", Map.of("files", list), new TypeReference<>() {});
    return answer.applied;
  }

  private record ApplyAnswer(List<Applied> applied) {}

  /** Whether the service is up. */
  public boolean isUp() {
    try {
      Map<String, Object> health = get("/api/health-and-metrics/health", new TypeReference<>() {});
      return "UP".equals(health.get("status"));
    } catch (UnreachableException | ProblemException e) {
      return false;
    }
  }

  private <T> T get(String path, TypeReference<T> type) {
    return send(request(path).GET().build(), type);
  }

  private <T> T post(String path, Object body, TypeReference<T> type) {
    return send(
        request(path)
            .header("Content-Type", "application/json")
            .POST(HttpRequest.BodyPublishers.ofByteArray(json.writeValueAsBytes(body)))
            .build(),
        type);
  }

  private HttpRequest.Builder request(String path) {
    return HttpRequest.newBuilder(service.resolve(path))
        .timeout(TIMEOUT)
        .header("Accept", "application/json, application/problem+json");
  }

  private <T> T send(HttpRequest request, TypeReference<T> type) {
    HttpResponse<byte[]> response;
    try {
      response = http.send(request, HttpResponse.BodyHandlers.ofByteArray());
    } catch (IOException e) {
      throw new UnreachableException(service, e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new UnreachableException(service, e);
    }
    if (response.statusCode() / 100 != 2) {
      throw new ProblemException(problem(response));
    }
    return json.readValue(response.body(), type);
  }

  private Problem problem(HttpResponse<byte[]> response) {
    try {
      return json.readValue(response.body(), Problem.class);
    } catch (JacksonException e) {
      return new Problem(
          null, null, response.statusCode(), "HTTP status " + response.statusCode(), null, null);
    }
  }

  private static String encode(String part) {
    return URLEncoder.encode(part, StandardCharsets.UTF_8).replace("+", "%20");
  }

  @Override
  public void close() {
    http.close();
  }
}
