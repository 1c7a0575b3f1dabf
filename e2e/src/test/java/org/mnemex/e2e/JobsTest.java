package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.InputStream;
import java.io.PipedInputStream;
import java.io.PipedOutputStream;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.AuditReport;
import org.mnemex.client.JobEntry;
import org.mnemex.client.PushClient;
import org.mnemex.client.SpaceReport;

/** What takes long, from its begin to its end, and over a stop of the service. */
class JobsTest {
  private static final int ACCESSIONS = 3000;
  private static final int TOOLS = 300;

  /** Portions of 4 MB that do not fit into the buffers between the service and a slow reader. */
  private static final int ENOUGH = 12;

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
        serial: {from: serial, type: exact, uses: [filter, show]}
      ---
      endpoint: tool-search
      index: tools
      search: {name: 1}
      show: [name]
      """;
  private static final HttpClient HTTP = HttpClient.newHttpClient();

  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, ACCESSIONS);
    service = RunningService.start(folder);
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static JobEntry over(long id) {
    RunningService.await(() -> service.client.jobs().one(id).isOver());
    return service.client.jobs().one(id);
  }

  @Test
  void anAuditIsAJobWithItsResult() {
    AuditReport report = service.client.audit("plants", false);
    JobEntry job = over(Objects.requireNonNull(report.job()));
    assertThat(job.kind()).isEqualTo("audit");
    assertThat(job.about()).isEqualTo("plants");
    assertThat(job.detail()).isEqualTo("edition 1, all records");
    assertThat(job.state()).isEqualTo("done");
    assertThat(job.done()).isEqualTo(job.total()).isPositive();
    assertThat(Objects.requireNonNull(job.log()))
        .extracting(JobEntry.Line::text)
        .containsExactly("about %,d records to compare".formatted(job.done()));
    assertThat(Objects.requireNonNull(job.result()).get("records").asLong()).isEqualTo(job.done());
    assertThat(job.message())
        .isEqualTo(
            service.client.audits("plants").stream()
                .filter(audit -> audit.id() == report.id())
                .findFirst()
                .orElseThrow()
                .statement());
    assertThatThrownBy(() -> service.client.jobs().cancel(job.id()))
        .hasMessageContaining("job " + job.id() + " has ended");
  }

  @Test
  void fillsAreListed() throws Exception {
    service.client.apply(
        Map.of(
            "beds.yaml",
            """
            index: bed-plants
            source: garden
            record: {root: accession, key: accession_no}
            fields: {bed: {from: bed_code, type: exact, uses: [filter, facet, show]}}
            """));
    RunningService.await(() -> fills().stream().anyMatch(JobEntry::isOver));
    JobEntry fill = fills().getFirst();
    assertThat(fill.state()).isEqualTo("done");
    assertThat(fill.message()).contains("documents; the edition is live");
  }

  private static List<JobEntry> fills() {
    return service.client.jobs().list(50).stream()
        .filter(job -> job.kind().equals("fill") && job.about().equals("bed-plants"))
        .toList();
  }

  @Test
  void comparingIsAJobOnRequest() throws Exception {
    HttpResponse<String> answer =
        service.post(
            "/api/endpoints/plant-search/compare",
            "{\"queries\": [\"rose\", \"fern\"], \"left\": 1, \"right\": 1}",
            "Prefer",
            "respond-async");
    assertThat(answer.statusCode()).isEqualTo(202);
    assertThat(answer.headers().firstValue("Preference-Applied")).hasValue("respond-async");
    String path = answer.headers().firstValue("Location").orElseThrow();
    JobEntry job = over(Long.parseLong(path.substring("/api/jobs/".length())));
    assertThat(job.message()).isEqualTo("0.0% of the first 10 results of 2 queries differ");
    assertThat(Objects.requireNonNull(job.result()).get("queries")).hasSize(2);
    assertThat(job.total()).isEqualTo(2);
  }

  @Test
  void compactingGivesBackWhatDeletedDocumentsHold() throws Exception {
    service.client.apply(Map.of("shed.yaml", SHED));
    service.awaitLive("tools");
    PushClient tools = service.client.push("tools");
    Path lines = folder.resolve("tools.ndjson");
    for (int i = 0; i < TOOLS; i++) {
      Files.writeString(
          lines,
          "{\"id\": \"c%d\", \"name\": \"rake %d\"}\n".formatted(i, i),
          StandardOpenOption.CREATE,
          StandardOpenOption.APPEND);
    }
    long others = documents("tools");
    tools.file(lines, "replace", (line, why) -> {});
    RunningService.await(() -> documents("tools") == others + TOOLS);
    // A third of each segment: one that has lost half of its documents is written anew by itself.
    List<String> all = Files.readAllLines(lines);
    tools.file(
        Files.write(
            lines, IntStream.range(0, TOOLS / 3).mapToObj(third -> all.get(3 * third)).toList()),
        "delete",
        (line, why) -> {});
    RunningService.await(() -> service.client.sizes("tools").deleted() > 0);
    SpaceReport before = service.client.sizes("tools");
    assertThat(before.savings())
        .extracting(SpaceReport.Saving::how)
        .contains("compact the index: mnemex compact -i tools", "leave it out of the definition");
    JobEntry job = over(service.client.jobs().compact("tools").id());
    assertThat(job.state()).isEqualTo("done");
    assertThat(job.message()).contains(" became one of ");
    SpaceReport after = service.client.sizes("tools");
    assertThat(after.deleted()).isZero();
    assertThat(after.bytes()).isLessThan(before.bytes());
    assertThat(after.documents()).isEqualTo(before.documents());
    assertThat(after.fields()).extracting(SpaceReport.FieldSpace::name).contains("name", "serial");
    assertThat(over(service.client.jobs().compact("tools").id()).message())
        .isEqualTo("there was nothing to compact");
    // What the live edition needs is all that is left.
    try (Stream<Path> files = Files.walk(folder.resolve("mnemex-data/indexes/tools"))) {
      assertThat(files.filter(file -> file.toString().endsWith(".mnx"))).hasSize(1);
    }
  }

  private static long documents(String index) {
    return Objects.requireNonNull(service.client.index(index).live()).documents();
  }

  @Test
  void whatStreamsForLongIsAJobThatCanBeCancelled() throws Exception {
    service.client.apply(Map.of("shed.yaml", SHED));
    service.awaitLive("tools");
    CompletableFuture<HttpResponse<String>> answer;
    try (PipedOutputStream lines = new PipedOutputStream()) {
      PipedInputStream sent = new PipedInputStream(lines, 1 << 20);
      answer =
          HTTP.sendAsync(
              HttpRequest.newBuilder(service.address().resolve("/api/indexes/tools/records"))
                  .header("Content-Type", "application/x-ndjson")
                  .POST(HttpRequest.BodyPublishers.ofInputStream(() -> sent))
                  .build(),
              HttpResponse.BodyHandlers.ofString());
      List<JobEntry> imports = List.of();
      for (int i = 0; i < ENOUGH || imports.isEmpty(); i++) {
        write(lines, i);
        imports = ofKind("import");
      }
      JobEntry job = service.client.jobs().cancel(imports.getFirst().id());
      write(lines, -1);
      over(job.id());
    }
    assertThat(ofKind("import").getFirst().state()).isEqualTo("cancelled");
    assertThat(answer.get().body())
        .contains("the import was cancelled; nothing from here on is taken")
        .contains("\"refused\":1");
    // An import in portions: the first one that comes after a cancellation is refused.
    String portions = "/api/indexes/tools/records?import=shed&more=true";
    String hoe = "[{\"id\": \"p1\", \"name\": \"hoe\"}]";
    int before = ofKind("import").size();
    while (ofKind("import").size() == before) {
      assertThat(service.post(portions, hoe).statusCode()).isEqualTo(200);
    }
    service.client.jobs().cancel(ofKind("import").getFirst().id());
    for (int i = 0; i < 2; i++) {
      assertThat(service.post(portions, hoe).body()).contains("the import was cancelled");
    }
    assertThat(ofKind("import"))
        .hasSize(before + 1)
        .allMatch(job -> job.state().equals("cancelled"));
    // An export that its caller reads slowly.
    try (InputStream records = service.client.export("tools")) {
      List<JobEntry> exports = List.of();
      while (exports.isEmpty()) {
        assertThat(records.readNBytes(1 << 13)).isNotEmpty();
        exports = ofKind("export");
      }
      service.client.jobs().cancel(exports.getFirst().id());
      assertThatThrownBy(records::readAllBytes).isInstanceOf(IOException.class);
    }
    RunningService.await(() -> ofKind("export").getFirst().state().equals("cancelled"));
  }

  private static List<JobEntry> ofKind(String kind) {
    return service.client.jobs().list(50).stream().filter(job -> job.kind().equals(kind)).toList();
  }

  /** As many lines as are written at once, with values that do not compress. */
  private static void write(PipedOutputStream lines, int portion) throws IOException {
    Random random = new Random(portion);
    for (int i = 0; i < 500; i++) {
      byte[] serial = new byte[6_000];
      random.nextBytes(serial);
      lines.write(
          "{\"id\": \"s%d-%d\", \"name\": \"spade\", \"serial\": \"%s\"}\n"
              .formatted(portion, i, Base64.getEncoder().encodeToString(serial))
              .getBytes(StandardCharsets.UTF_8));
    }
  }

  @Test
  void aStopEndsJobsAndSaysSo() throws Exception {
    long id = Objects.requireNonNull(service.client.audit("plants", false).job());
    service.kill();
    service.restart();
    JobEntry job = over(id);
    assertThat(job.state()).isIn("interrupted", "done");
    assertThat(job.message()).isNotNull();
    List<JobEntry> all = service.client.jobs().list(50);
    assertThat(all).allMatch(JobEntry::isOver);
  }
}
