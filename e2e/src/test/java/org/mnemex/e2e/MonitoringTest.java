package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.io.RandomAccessFile;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse.BodyHandlers;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.SearchQuery;

/** What systems that watch services learn of this one: meters, traces, examples for both. */
class MonitoringTest {
  private static final int ACCESSIONS = 300;
  private static final String TRACE = "4bf92f3577b34da6a3ce929d0e0e4736";
  private static final String SHED =
      """
      source: shed
      kind: push
      ---
      index: tools
      source: shed
      record: {key: [id]}
      fields:
        name: {from: name, type: text}
      """;
  private static final HttpClient HTTP = HttpClient.newHttpClient();
  private static final List<String> RECEIVED = new CopyOnWriteArrayList<>();

  @TempDir private static Path folder;
  private static HttpServer collector;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    collector = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
    collector.createContext("/v1/traces", MonitoringTest::take);
    collector.start();
    GardenFiles.create(folder, ACCESSIONS);
    service =
        RunningService.configured(
            folder,
            "--management.opentelemetry.enabled=true",
            "--management.opentelemetry.tracing.export.otlp.endpoint=http://127.0.0.1:%d/v1/traces"
                .formatted(collector.getAddress().getPort()),
            "--management.opentelemetry.tracing.export.schedule-delay=100ms",
            "--management.tracing.sampling.probability=1.0");
    service.applyGarden();
    service.client.apply(Map.of("shed.yaml", SHED));
    service.awaitLive("tools");
    Files.writeString(folder.resolve("tools.ndjson"), "{\"id\": \"rake\", \"name\": \"rake\"}\n");
    service.client.push("tools").file(folder.resolve("tools.ndjson"), "replace", (line, why) -> {});
  }

  /** One of each thing that is only counted once it has happened. */
  private static void letThingsHappen() throws Exception {
    long audit = Objects.requireNonNull(service.client.audit("plants", false).job());
    RunningService.await(() -> service.client.jobs().one(audit).isOver());
    service.client.search("plant-search", SearchQuery.words("rose"));
    assertThat(service.get("/search/nothing").statusCode()).isEqualTo(404);
    // The meters of indexes are read every few seconds, one after another: this one is the last.
    RunningService.await(() -> meters("text/plain").contains("mnemex_audit_age"));
  }

  @AfterAll
  static void stop() {
    service.close();
    collector.stop(0);
  }

  private static void take(HttpExchange call) throws IOException {
    try (call) {
      // Names and identifiers stand in the messages as they are.
      RECEIVED.add(new String(call.getRequestBody().readAllBytes(), StandardCharsets.ISO_8859_1));
      call.sendResponseHeaders(200, -1);
    }
  }

  @Test
  void metersTellOfIndexesSearchesAndJobs() throws Exception {
    letThingsHappen();
    long documents = Objects.requireNonNull(service.client.index("plants").live()).documents();
    assertThat(meters("text/plain"))
        .contains(
            "mnemex_index_documents{index=\"plants\"} " + (double) documents,
            "mnemex_feed_following{index=\"plants\"} 1.0",
            "mnemex_index_size_bytes{index=\"plants\"}",
            "mnemex_audit_clean{index=\"plants\"} 1.0",
            "mnemex_searches_seconds_bucket{endpoint=\"plant-search\",le=",
            "mnemex_jobs_seconds_count{kind=\"audit\",state=\"done\"}",
            "mnemex_problems_total{type=\"unknown-endpoint\"}",
            "mnemex_records_size_bytes ",
            "hikaricp_connections",
            "disk_free_bytes{path=");
  }

  /** A rule about a meter that is not there would never wake anybody. */
  @Test
  void theExamplesNameMetersThatExist() throws Exception {
    letThingsHappen();
    for (String example : List.of("alerts.yml", "dashboard.json")) {
      String text =
          Files.readString(RunningService.root().resolve("examples/monitoring").resolve(example));
      Set<String> named =
          Pattern.compile("\\b(mnemex|disk|jvm)_[a-z_]+")
              .matcher(text)
              .results()
              .map(MatchResult::group)
              .collect(Collectors.toSet());
      assertThat(named)
          .hasSizeGreaterThan(8)
          .allSatisfy(name -> assertThat(meters("text/plain")).contains(name));
    }
  }

  @Test
  void aSearchIsASpanOfTheTraceThatItsCallerBegan() throws Exception {
    HttpRequest request =
        HttpRequest.newBuilder(URI.create(service.url + "/search/plant-search?q=fern"))
            .header("traceparent", "00-%s-00f067aa0ba902b7-01".formatted(TRACE))
            .build();
    assertThat(HTTP.send(request, BodyHandlers.ofString()).statusCode()).isEqualTo(200);
    String raw = new String(HexFormat.of().parseHex(TRACE), StandardCharsets.ISO_8859_1);
    RunningService.await(
        () ->
            RECEIVED.stream()
                .anyMatch(
                    spans ->
                        spans.contains(raw)
                            && spans.contains("http get /search/{endpoint}")
                            && spans.contains("plant-search")));
    assertThat(RECEIVED).noneMatch(spans -> spans.contains("fern"));
    // An example of a trace stands beside the histogram that counted the search.
    assertThat(
            meters("application/openmetrics-text; version=1.0.0")
                .lines()
                .filter(line -> line.startsWith("mnemex_searches_seconds_bucket")))
        .anyMatch(line -> line.contains("trace_id=\""));
  }

  @Test
  void anIndexThatDoesNotRunDoesNotFollow() throws Exception {
    service.stop();
    List<Path> segments;
    try (Stream<Path> files = Files.walk(folder.resolve("mnemex-data/indexes"))) {
      segments =
          files
              .filter(file -> file.toString().contains("tools"))
              .filter(file -> file.getFileName().toString().startsWith("seg-"))
              .toList();
    }
    version(segments, 2);
    service.restart();
    RunningService.await(
        () -> meters("text/plain").contains("mnemex_feed_following{index=\"tools\"} 0.0"));
    assertThat(meters("text/plain")).contains("mnemex_feed_following{index=\"plants\"} 1.0");
    service.stop();
    version(segments, 1);
    service.restart();
    RunningService.await(
        () -> meters("text/plain").contains("mnemex_feed_following{index=\"tools\"} 1.0"));
  }

  /** Lets segments say that another version of the program has written them. */
  private static void version(List<Path> segments, int version) throws IOException {
    assertThat(segments).isNotEmpty();
    for (Path segment : segments) {
      try (RandomAccessFile file = new RandomAccessFile(segment.toFile(), "rw")) {
        file.seek(8);
        file.write(version);
        file.seek(file.length() - 12);
        file.write(version);
      }
    }
  }

  private static String meters(String form) {
    try {
      return HTTP.send(
              HttpRequest.newBuilder(URI.create(service.url + "/api/health-and-metrics/metrics"))
                  .header("Accept", form)
                  .build(),
              BodyHandlers.ofString())
          .body();
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }
}
