package org.mnemex.client;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.BiConsumer;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.JsonNode;
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
  private final @Nullable String author;
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
    this(service, null);
  }

  /**
   * @param author who asks, to be written down with what is changed; null not to say it
   */
  public MnemexClient(URI service, @Nullable String author) {
    this.service = service;
    // A header holds no more than that; a name in other letters must not keep anybody from asking.
    this.author = author == null ? null : author.replaceAll("[^\\x20-\\x7E]", "?");
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

  /** One index. */
  public IndexStatus index(String name) {
    return get("/api/indexes/" + encode(name), new TypeReference<>() {});
  }

  /** The last changes of an index, newest first. */
  public List<Change> changes(String index, int limit) {
    return get(
        "/api/indexes/" + encode(index) + "/changes?limit=" + limit, new TypeReference<>() {});
  }

  /** One record from database to tokens. */
  public TracedRecord record(String index, String key) {
    return get(
        "/api/indexes/" + encode(index) + "/records/" + encodePath(key), new TypeReference<>() {});
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
   * @param share of differing records that shall be noticed with 95% confidence, like {@code 0.1%}
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

  /**
   * Lets the feed read records in quarantine again; how many there are.
   *
   * @param key of a single one, or null for all
   */
  public int retryQuarantine(String index, @Nullable String key) {
    RetryAnswer answer =
        post(
            "/api/indexes/"
                + encode(index)
                + "/quarantine/retry"
                + (key == null ? "" : "?key=" + encode(key)),
            Map.of(),
            new TypeReference<>() {});
    return answer.records;
  }

  /** Marks a record in quarantine as seen. */
  public void dismiss(String index, String key) {
    send(
        request("/api/indexes/" + encode(index) + "/quarantine/dismiss?key=" + encode(key))
            .POST(HttpRequest.BodyPublishers.noBody())
            .build());
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

  /** Some rows of a table. */
  public List<Map<String, Object>> rows(String source, String table, int limit) {
    return get(
        "/api/sources/%s/tables/%s/rows?limit=%d".formatted(encode(source), encode(table), limit),
        new TypeReference<>() {});
  }

  /** Definitions proposed over a table, as YAML. */
  public String draft(String source, String table) {
    DraftAnswer answer =
        get(
            "/api/sources/" + encode(source) + "/draft?table=" + encode(table),
            new TypeReference<>() {});
    return answer.yaml;
  }

  private record DraftAnswer(String yaml) {}

  /**
   * What is made in the database for the indexes of a source.
   *
   * @param run whether to make it, instead of only saying it
   */
  public SourceStatements prepare(String source, boolean run) {
    return prepare(source, run, Map.of());
  }

  /**
   * The same, also for indexes whose definitions are not applied yet.
   *
   * @param files YAML by the name that errors shall use
   */
  public SourceStatements prepare(String source, boolean run, Map<String, String> files) {
    return post(
        "/api/sources/" + encode(source) + "/prepare",
        Map.of("run", run, "files", list(files)),
        new TypeReference<>() {});
  }

  /**
   * What is removed from the database and with it the source's definition.
   *
   * @param run whether to remove it, instead of only saying it
   */
  public SourceStatements forget(String source, boolean run) {
    return post(
        "/api/sources/" + encode(source) + "/forget", Map.of("run", run), new TypeReference<>() {});
  }

  /**
   * Lets a source forget a reader that nobody feeds.
   *
   * @param reader its name, as {@link #checkSource} tells it
   */
  public void dropReader(String source, String reader) {
    send(
        request("/api/sources/" + encode(source) + "/readers/" + encodePath(reader))
            .DELETE()
            .build());
  }

  /**
   * Removes a definition, and with an index everything that was built of it.
   *
   * @param kind source, analyser, index or endpoint
   */
  public void remove(String kind, String name) {
    send(request("/api/definitions/" + encode(kind) + "/" + encode(name)).DELETE().build());
  }

  /**
   * Pushes many records.
   *
   * @param file lines of JSON, or CSV if its name ends so
   * @param act replace, merge or delete
   * @param refused is told of each line that was not taken, with the reason
   */
  public Pushed push(String index, Path file, String act, BiConsumer<Long, String> refused)
      throws IOException {
    boolean csv = file.toString().toLowerCase(Locale.ROOT).endsWith(".csv");
    HttpRequest request =
        HttpRequest.newBuilder(
                service.resolve("/api/indexes/" + encode(index) + "/records?act=" + encode(act)))
            .header("Content-Type", csv ? "text/csv" : "application/x-ndjson")
            .POST(HttpRequest.BodyPublishers.ofFile(file))
            .build();
    Pushed total = new Pushed(0, 0, null);
    try (BufferedReader lines =
        new BufferedReader(new InputStreamReader(stream(request), StandardCharsets.UTF_8))) {
      for (String line = lines.readLine(); line != null; line = lines.readLine()) {
        JsonNode answer = json.readTree(line);
        if (answer.has("taken")) {
          total = json.treeToValue(answer, Pushed.class);
        } else if (answer.hasNonNull("problem")) {
          refused.accept(answer.get("line").asLong(), answer.get("problem").asString());
        }
      }
    }
    return total;
  }

  /** All stored records of an index, as lines of JSON with key and record. To be closed. */
  public InputStream export(String index) {
    return stream(
        HttpRequest.newBuilder(service.resolve("/api/indexes/" + encode(index) + "/records"))
            .GET()
            .build());
  }

  private InputStream stream(HttpRequest request) {
    HttpResponse<InputStream> response;
    try {
      response = http.send(request, HttpResponse.BodyHandlers.ofInputStream());
      if (response.statusCode() / 100 != 2) {
        try (InputStream body = response.body()) {
          throw new ProblemException(problem(response.statusCode(), body.readAllBytes()));
        }
      }
    } catch (IOException e) {
      throw new UnreachableException(service, e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new UnreachableException(service, e);
    }
    return response.body();
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
    return apply(files, ApplyOptions.USUAL);
  }

  /**
   * Applies definition files: all of them or none.
   *
   * @param files YAML by the name that errors shall use
   */
  public List<Applied> apply(Map<String, String> files, ApplyOptions options) {
    Map<String, Object> body = new LinkedHashMap<>();
    body.put("files", list(files));
    body.put("prepare", options.prepare());
    body.put("hold", options.hold());
    if (options.plan() != null) {
      body.put("plan", options.plan());
    }
    ApplyAnswer answer = post("/api/definitions", body, new TypeReference<>() {});
    return answer.applied;
  }

  /**
   * What applying definition files would do; nothing is changed.
   *
   * @param files YAML by the name that errors shall use
   */
  public PlannedChanges plan(Map<String, String> files) {
    return post("/api/plan", Map.of("files", list(files)), new TypeReference<>() {});
  }

  private static List<Map<String, String>> list(Map<String, String> files) {
    return files.entrySet().stream()
        .map(file -> Map.of("name", file.getKey(), "text", file.getValue()))
        .toList();
  }

  /** All editions that an index ever had, newest first. */
  public List<EditionEntry> editions(String index) {
    return get("/api/indexes/" + encode(index) + "/editions", new TypeReference<>() {});
  }

  /** Makes the edition live that waits. */
  public IndexStatus promote(String index) {
    return post("/api/indexes/" + encode(index) + "/promote", Map.of(), new TypeReference<>() {});
  }

  /** Makes the former edition live again, and its definition count. */
  public IndexStatus rollback(String index) {
    return post("/api/indexes/" + encode(index) + "/rollback", Map.of(), new TypeReference<>() {});
  }

  /**
   * Asks two editions the same queries.
   *
   * @param queries empty for those that were searched for most
   * @param left number of an edition; null for the live one
   * @param right number of an edition; null for the one that shall follow, or else the former one
   * @param top how many results of each query to look at
   */
  public ComparedEditions compare(
      String endpoint,
      List<String> queries,
      @Nullable Integer left,
      @Nullable Integer right,
      int top) {
    return compare(endpoint, queries, left, right, top, null);
  }

  /**
   * Asks two editions the same queries.
   *
   * @param settings definition of the endpoint that the right one is asked with; null for the one
   *     that counts
   */
  public ComparedEditions compare(
      String endpoint,
      List<String> queries,
      @Nullable Integer left,
      @Nullable Integer right,
      int top,
      @Nullable String settings) {
    Map<String, Object> body = new LinkedHashMap<>();
    body.put("top", top);
    if (settings != null) {
      body.put("settings", settings);
    }
    if (!queries.isEmpty()) {
      body.put("queries", queries);
    }
    if (left != null) {
      body.put("left", left);
    }
    if (right != null) {
      body.put("right", right);
    }
    return post("/api/endpoints/" + encode(endpoint) + "/compare", body, new TypeReference<>() {});
  }

  /**
   * Scores an edition by a scorecard; what it comes to is kept.
   *
   * @param edition null for the live one
   */
  public Scored score(String scorecard, @Nullable Integer edition) {
    return score(scorecard, edition, null);
  }

  /**
   * Scores an edition by a scorecard.
   *
   * @param edition null for the live one
   * @param settings definition of the endpoint to ask with, of which nothing is kept; or null
   */
  public Scored score(String scorecard, @Nullable Integer edition, @Nullable String settings) {
    return post(
        "/api/scorecards/"
            + encode(scorecard)
            + "/score"
            + (edition == null ? "" : "?edition=" + edition),
        settings == null ? Map.of() : Map.of("settings", settings),
        new TypeReference<>() {});
  }

  /** What a scorecard came to before, oldest first. */
  public List<ScoreEntry> scores(String scorecard) {
    return get("/api/scorecards/" + encode(scorecard) + "/history", new TypeReference<>() {});
  }

  /** How two versions of a definition differ. */
  public VersionsCompared differences(String kind, String name, int from, int to) {
    return get(
        "/api/definitions/%s/%s/differences?from=%d&to=%d"
            .formatted(encode(kind), encode(name), from, to),
        new TypeReference<>() {});
  }

  /** The definitions that count. */
  public List<DefinitionEntry> definitions() {
    return get("/api/definitions", new TypeReference<>() {});
  }

  /** All versions of a definition, newest first. */
  public List<DefinitionEntry> versions(String kind, String name) {
    return get("/api/definitions/" + encode(kind) + "/" + encode(name), new TypeReference<>() {});
  }

  /** What another analyser would change about a field. */
  public TriedAnalyser tryAnalyser(String index, String field, String analyser) {
    return tryAnalyser(index, field, Map.of("analyser", analyser));
  }

  /**
   * What an analyser that is not applied yet would change about a field.
   *
   * @param yaml its definition
   */
  public TriedAnalyser tryDefinition(String index, String field, String yaml) {
    return tryAnalyser(index, field, Map.of("definition", yaml));
  }

  private TriedAnalyser tryAnalyser(String index, String field, Map<String, String> body) {
    return post(
        "/api/indexes/" + encode(index) + "/fields/" + encode(field) + "/try",
        body,
        new TypeReference<>() {});
  }

  private record ApplyAnswer(List<Applied> applied) {}

  /** Whether the service is up. */
  public boolean isUp() {
    try {
      Map<String, Object> health =
          get("/api/health-and-metrics/health/liveness", new TypeReference<>() {});
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
    HttpRequest.Builder request =
        HttpRequest.newBuilder(service.resolve(path))
            .timeout(TIMEOUT)
            .header("Accept", "application/json, application/problem+json");
    if (author != null) {
      request.header("From", author);
    }
    return request;
  }

  private <T> T send(HttpRequest request, TypeReference<T> type) {
    return json.readValue(send(request), type);
  }

  /** The body of the answer. */
  private byte[] send(HttpRequest request) {
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
      throw new ProblemException(problem(response.statusCode(), response.body()));
    }
    return response.body();
  }

  private Problem problem(int status, byte[] body) {
    try {
      return json.readValue(body, Problem.class);
    } catch (JacksonException e) {
      return new Problem(null, null, status, "HTTP status " + status, null, null);
    }
  }

  /** Slashes stand between parts, as in composite keys, and belong to the path. */
  private static String encodePath(String path) {
    return String.join(
        "/", java.util.Arrays.stream(path.split("/", -1)).map(MnemexClient::encode).toList());
  }

  private static String encode(String part) {
    return URLEncoder.encode(part, StandardCharsets.UTF_8).replace("+", "%20");
  }

  @Override
  public void close() {
    http.close();
  }
}
