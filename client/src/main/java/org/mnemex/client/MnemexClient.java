package org.mnemex.client;

import java.io.InputStream;
import java.net.URI;
import java.net.http.HttpRequest;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.type.TypeReference;

/**
 * Calls a service. May be shared between threads.
 *
 * <p>Every method throws {@link ProblemException} if the service refuses, and {@link
 * UnreachableException} if it does not answer.
 */
public final class MnemexClient implements AutoCloseable {
  private final Calls calls;

  /** Virtual threads wait for answers that nobody else waits for. */
  private final ExecutorService waiting = Executors.newVirtualThreadPerTaskExecutor();

  /**
   * @param service for example {@code http://127.0.0.1:7077}
   */
  public MnemexClient(URI service) {
    this(service, ClientOptions.usual());
  }

  /**
   * @param author who asks, recorded with changes by a service without keys; null for unknown
   * @param key a key or token, sent with every call; null for none
   */
  public MnemexClient(URI service, @Nullable String author, @Nullable String key) {
    this(service, ClientOptions.usual().author(author).key(key));
  }

  /** A client with time limits and retries of its own. */
  public MnemexClient(URI service, ClientOptions options) {
    this.calls = new Calls(service, options);
  }

  public URI service() {
    return calls.service();
  }

  /** Searches an endpoint. */
  public SearchAnswer search(String endpoint, SearchQuery query) {
    return calls.post("/search/" + Calls.encode(endpoint), query, new TypeReference<>() {});
  }

  /**
   * Searches an endpoint for records of a type: its components or properties are shown fields,
   * {@code latinName} for {@code latin_name}, and {@code key} the key of the record.
   *
   * @throws IllegalArgumentException if a field does not fit the type
   */
  public <T> TypedResults<T> search(String endpoint, SearchQuery query, Class<T> type) {
    SearchAnswer answer = search(endpoint, query);
    return new TypedResults<>(
        answer,
        answer.results().stream()
            .map(
                result -> {
                  Map<String, Object> fields = new LinkedHashMap<>(result.fields());
                  fields.putIfAbsent("key", result.key());
                  return calls.record(fields, type);
                })
            .toList());
  }

  /**
   * The same without waiting for the answer. A refusal completes it exceptionally, with the
   * exception that {@link #search(String, SearchQuery, Class)} throws.
   */
  public <T> CompletableFuture<TypedResults<T>> searchAsync(
      String endpoint, SearchQuery query, Class<T> type) {
    return CompletableFuture.supplyAsync(() -> search(endpoint, query, type), waiting);
  }

  /** The answers of several endpoints to one search, by endpoint. */
  public Map<String, EndpointAnswer> search(List<String> endpoints, SearchQuery query) {
    SeveralAnswers several =
        calls.post(
            "/search?" + Calls.repeated("endpoint", endpoints), query, new TypeReference<>() {});
    return several.answers;
  }

  /**
   * Answers of several endpoints.
   *
   * @param answers by endpoint
   */
  private record SeveralAnswers(Map<String, EndpointAnswer> answers) {}

  /** How a record's score is computed, or why the record is not a result. */
  public Explained explain(String endpoint, SearchQuery query, String key) {
    return calls.post(
        "/search/" + Calls.encode(endpoint) + "/explain?key=" + Calls.encode(key),
        query,
        new TypeReference<>() {});
  }

  /**
   * Records by their keys, as results show them, in the order of the keys.
   *
   * @param keys up to 100
   */
  public FoundRecords records(String endpoint, List<String> keys) {
    String path = "/search/" + Calls.encode(endpoint) + "/records?";
    return calls.get(path + Calls.repeated("key", keys), new TypeReference<>() {});
  }

  /**
   * Tells which result of an answer was opened, so that it can be reported what people find.
   *
   * @param answer the {@link SearchAnswer#id} of the answer
   * @param key the key of the record that was opened
   * @param position its place in the answer, from 1
   */
  public void chosen(String endpoint, String answer, String key, int position) {
    calls.tell(
        "/search/" + Calls.encode(endpoint) + "/chosen",
        Map.of("id", answer, "key", key, "position", position));
  }

  /** Completions of a text being typed. */
  public List<Suggested> suggest(String endpoint, String text, int size) {
    SuggestAnswer answer =
        calls.get(
            "/search/"
                + Calls.encode(endpoint)
                + "/suggest?q="
                + Calls.encode(text)
                + "&size="
                + size,
            new TypeReference<>() {});
    return answer.suggestions;
  }

  /**
   * Completions.
   *
   * @param suggestions the completions, best first
   */
  private record SuggestAnswer(List<Suggested> suggestions) {}

  /** All indexes. */
  public List<IndexStatus> indexes() {
    return calls.get("/api/indexes", new TypeReference<>() {});
  }

  /** One index. */
  public IndexStatus index(String name) {
    return calls.get("/api/indexes/" + Calls.encode(name), new TypeReference<>() {});
  }

  /** The last changes of an index, newest first. */
  public List<Change> changes(String index, int limit) {
    return calls.get(
        "/api/indexes/" + Calls.encode(index) + "/changes?limit=" + limit,
        new TypeReference<>() {});
  }

  /** Traces a record from the database to its tokens. */
  public TracedRecord record(String index, String key) {
    return calls.get(
        "/api/indexes/" + Calls.encode(index) + "/records/" + Calls.encodePath(key),
        new TypeReference<>() {});
  }

  /**
   * Starts an audit of the live edition; {@link #audits} has its result.
   *
   * @param repair whether to repair differences
   */
  public AuditReport audit(String index, boolean repair) {
    return audit(index, Map.of("repair", repair));
  }

  /**
   * Starts an audit of a sample.
   *
   * @param share of differing records to notice with 95% confidence, like {@code 0.1%}
   */
  public AuditReport auditSample(String index, String share, boolean repair) {
    return audit(index, Map.of("repair", repair, "sample", share));
  }

  /** Starts an audit of a single record. */
  public AuditReport auditRecord(String index, String key, boolean repair) {
    return audit(index, Map.of("repair", repair, "key", key));
  }

  private AuditReport audit(String index, Map<String, Object> body) {
    return calls.post(
        "/api/indexes/" + Calls.encode(index) + "/audits", body, new TypeReference<>() {});
  }

  /** The last audits of an index, newest first. */
  public List<AuditReport> audits(String index) {
    return calls.get("/api/indexes/" + Calls.encode(index) + "/audits", new TypeReference<>() {});
  }

  /** Records that could not be read or mapped; the first hundred by key. */
  public List<QuarantinedRecord> quarantine(String index) {
    return calls.get(
        "/api/indexes/" + Calls.encode(index) + "/quarantine", new TypeReference<>() {});
  }

  /**
   * Retries records in quarantine; returns how many.
   *
   * @param key of a single one, or null for all
   */
  public int retryQuarantine(String index, @Nullable String key) {
    RetryAnswer answer =
        calls.post(
            "/api/indexes/"
                + Calls.encode(index)
                + "/quarantine/retry"
                + (key == null ? "" : "?key=" + Calls.encode(key)),
            Map.of(),
            new TypeReference<>() {});
    return answer.records;
  }

  /** Marks a record in quarantine as seen. */
  public void dismiss(String index, String key) {
    calls.send(
        calls
            .request(
                "/api/indexes/"
                    + Calls.encode(index)
                    + "/quarantine/dismiss?key="
                    + Calls.encode(key))
            .POST(HttpRequest.BodyPublishers.noBody())
            .build());
  }

  /**
   * What was retried.
   *
   * @param records number of records that are read again
   */
  private record RetryAnswer(int records) {}

  /** Pauses the feed of an index, which keeps answering. */
  public IndexStatus pauseFeed(String index) {
    return feed(index, "pause");
  }

  /** Resumes a paused feed. */
  public IndexStatus resumeFeed(String index) {
    return feed(index, "resume");
  }

  /** Approves held removals, or a held promotion. */
  public IndexStatus agree(String index) {
    return feed(index, "agree");
  }

  private IndexStatus feed(String index, String act) {
    return calls.post(
        "/api/indexes/" + Calls.encode(index) + "/feed/" + act, Map.of(), new TypeReference<>() {});
  }

  /** The current position of an index's source, for {@link SearchQuery#trueFor}. */
  public String position(String index) {
    PositionAnswer answer =
        calls.get(
            "/api/indexes/" + Calls.encode(index) + "/feed/position", new TypeReference<>() {});
    return answer.position;
  }

  /**
   * The current position of a source.
   *
   * @param position the position
   */
  private record PositionAnswer(String position) {}

  /** Names of all sources. */
  public List<String> sources() {
    return calls.get("/api/sources", new TypeReference<>() {});
  }

  /** Calls about one source. */
  public SourceClient source(String name) {
    return new SourceClient(calls, name);
  }

  /**
   * Removes a definition; for an index, also its editions.
   *
   * @param kind source, analyser, index or endpoint
   */
  public void remove(String kind, String name) {
    calls.send(
        calls
            .request("/api/definitions/" + Calls.encode(kind) + "/" + Calls.encode(name))
            .DELETE()
            .build());
  }

  /**
   * Proposes a push source, an index and an endpoint for the records of a file.
   *
   * @param name what the records are
   * @param format ndjson or csv
   * @param sample the first lines of the file
   * @return YAML that can be applied
   */
  public String draft(String name, String format, String sample) {
    Map<String, String> answer =
        calls.post(
            "/api/draft",
            Map.of("name", name, "format", format, "sample", sample),
            new TypeReference<>() {});
    return Objects.requireNonNull(answer.get("yaml"));
  }

  /** Writes records of an index with a push source. */
  public PushClient push(String index) {
    return new PushClient(calls, index);
  }

  /** All stored records of an index, as NDJSON with key and record. To be closed. */
  public InputStream export(String index) {
    return calls.stream(
        calls.endless("/api/indexes/" + Calls.encode(index) + "/records").GET().build());
  }

  /** Runs analysers on a text. */
  public List<Analysed> analyse(String text, List<String> analysers) {
    return calls.post(
        "/api/analysers/try",
        Map.of("text", text, "analysers", analysers),
        new TypeReference<>() {});
  }

  /**
   * Applies definition files: all of them or none.
   *
   * @param files YAML by the name that errors use
   */
  public List<Applied> apply(Map<String, String> files) {
    return apply(files, ApplyOptions.USUAL);
  }

  /**
   * Applies definition files: all of them or none.
   *
   * @param files YAML by the name that errors use
   */
  public List<Applied> apply(Map<String, String> files, ApplyOptions options) {
    Map<String, Object> body = new LinkedHashMap<>();
    body.put("files", Calls.files(files));
    body.put("prepare", options.prepare());
    body.put("hold", options.hold());
    if (options.plan() != null) {
      body.put("plan", options.plan());
    }
    Map<String, List<Applied>> answer =
        calls.post("/api/definitions", body, new TypeReference<>() {});
    return Objects.requireNonNull(answer.get("applied"));
  }

  /**
   * Plans what applying definition files would do.
   *
   * @param files YAML by the name that errors use
   */
  public PlannedChanges plan(Map<String, String> files) {
    return calls.post("/api/plan", Map.of("files", Calls.files(files)), new TypeReference<>() {});
  }

  /** All editions of an index, removed ones included, newest first. */
  public List<EditionEntry> editions(String index) {
    return calls.get("/api/indexes/" + Calls.encode(index) + "/editions", new TypeReference<>() {});
  }

  /** Promotes the edition that waits for approval. */
  public IndexStatus promote(String index) {
    return calls.post(
        "/api/indexes/" + Calls.encode(index) + "/promote", Map.of(), new TypeReference<>() {});
  }

  /** Restores the previous edition and its definition. */
  public IndexStatus rollback(String index) {
    return calls.post(
        "/api/indexes/" + Calls.encode(index) + "/rollback", Map.of(), new TypeReference<>() {});
  }

  /** How two versions of a definition differ. */
  public VersionsCompared differences(String kind, String name, int from, int to) {
    return calls.get(
        "/api/definitions/%s/%s/differences?from=%s&to=%s"
            .formatted(Calls.encode(kind), Calls.encode(name), from, to),
        new TypeReference<>() {});
  }

  /** The current definitions. */
  public List<DefinitionEntry> definitions() {
    return calls.get("/api/definitions", new TypeReference<>() {});
  }

  /** All versions of a definition, newest first. */
  public List<DefinitionEntry> versions(String kind, String name) {
    return calls.get(
        "/api/definitions/" + Calls.encode(kind) + "/" + Calls.encode(name),
        new TypeReference<>() {});
  }

  /** What the live edition of an index takes on the disk, and what of it is dispensable. */
  public SpaceReport sizes(String index) {
    return calls.get("/api/indexes/" + Calls.encode(index) + "/sizes", new TypeReference<>() {});
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
    return calls.post(
        "/api/indexes/" + Calls.encode(index) + "/fields/" + Calls.encode(field) + "/try",
        body,
        new TypeReference<>() {});
  }

  /** Calls about how good results are. */
  public QualityClient quality() {
    return new QualityClient(calls);
  }

  /** Calls about what takes long. */
  public JobClient jobs() {
    return new JobClient(calls);
  }

  /** Calls about backups. */
  public BackupClient backups() {
    return new BackupClient(calls);
  }

  /** Calls about what somebody should know of. */
  public ConditionClient conditions() {
    return new ConditionClient(calls);
  }

  /** What the service publishes for other machines, or follows. */
  public StoreStatus store() {
    return calls.get("/api/store", new TypeReference<>() {});
  }

  /** The search nodes that report to the service, by name. */
  public List<NodeEntry> nodes() {
    return calls.get("/api/nodes", new TypeReference<>() {});
  }

  /** Calls about what people search for. */
  public InsightClient insights() {
    return new InsightClient(calls);
  }

  /** Calls about keys and the activity log. */
  public AccessClient access() {
    return new AccessClient(calls);
  }

  /** Whether the service is up. */
  public boolean isUp() {
    try {
      calls.send(calls.request("/api/health-and-metrics/health/liveness").build());
      return true;
    } catch (UnreachableException | ProblemException e) {
      return false;
    }
  }

  @Override
  public void close() {
    waiting.shutdownNow();
    calls.close();
  }
}
