package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.AuditReport;
import org.mnemex.client.JobEntry;
import org.mnemex.client.SearchQuery;

/** What takes long, from its begin to its end, and over a stop of the service. */
class JobsTest {
  private static final int ACCESSIONS = 3000;

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
  void metersTellOfIndexesSearchesAndJobs() throws Exception {
    over(Objects.requireNonNull(service.client.audit("plants", false).job()));
    service.client.search("plant-search", SearchQuery.words("rose"));
    long documents = Objects.requireNonNull(service.client.index("plants").live()).documents();
    RunningService.await(() -> meters().contains("mnemex_audit_clean{index=\"plants\"} 1.0"));
    assertThat(meters())
        .contains(
            "mnemex_index_documents{index=\"plants\"} " + (double) documents,
            "mnemex_feed_following{index=\"plants\"} 1.0",
            "mnemex_index_size_bytes{index=\"plants\"}",
            "mnemex_searches_seconds_bucket{endpoint=\"plant-search\",le=",
            "mnemex_jobs_seconds_count{kind=\"audit\",state=\"done\"}",
            "mnemex_records_size_bytes ",
            "hikaricp_connections",
            "disk_free_bytes{path=");
  }

  /** A rule about a meter that is not there would never wake anybody. */
  @Test
  void theRulesOfTheExampleNameMetersThatExist() throws Exception {
    over(Objects.requireNonNull(service.client.audit("plants", false).job()));
    service.client.search("plant-search", SearchQuery.words("rose"));
    RunningService.await(() -> meters().contains("mnemex_audit_clean"));
    String rules =
        Files.readString(RunningService.root().resolve("examples/monitoring/alerts.yml"));
    Set<String> named =
        Pattern.compile("\\b(mnemex|disk)_[a-z_]+")
            .matcher(rules)
            .results()
            .map(MatchResult::group)
            .collect(Collectors.toSet());
    assertThat(named).hasSizeGreaterThan(8).allSatisfy(name -> assertThat(meters()).contains(name));
  }

  private static String meters() {
    try {
      return service.get("/api/health-and-metrics/metrics").body();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new AssertionError(e);
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
