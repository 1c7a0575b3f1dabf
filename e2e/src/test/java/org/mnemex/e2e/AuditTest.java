package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import java.nio.file.Path;
import java.time.Clock;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.AuditReport;
import org.mnemex.client.QuarantinedRecord;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Gardener;

/** An audit finds what nothing else noticed, and no change that is on its way. */
class AuditTest {
  /** Runs an audit to its end. */
  static AuditReport audit(RunningService service, boolean repair) {
    return audit(service, "plants", repair);
  }

  /** Runs an audit of an index to its end. */
  static AuditReport audit(RunningService service, String index, boolean repair) {
    return ended(service, index, service.client.audit(index, repair).id());
  }

  /** Waits until the index has what the database has now, and audits it. */
  static void awaitClean(RunningService service) {
    service.awaitTrue("plants");
    assertThat(audit(service, false).statement()).contains("; 0 missing, 0 stale, 0 extra;");
  }

  @Test
  void differencesAreFoundNamedAndRepaired(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 700);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      assertThat(audit(service, false).clean()).isTrue();
      GardenFiles.runUnseen(
          garden,
          "UPDATE accession SET status = 'planted' WHERE accession_no < 'QB-00009'",
          "UPDATE accession SET status = 'lost' WHERE accession_no = 'QB-00005'",
          "DELETE FROM accession WHERE accession_no = 'QB-00006'",
          "UPDATE accession SET notes = 'Unseen' WHERE accession_no IN ('QB-00001', 'QB-00002')",
          "INSERT INTO accession SELECT 'QB-99999', taxon_id, bed_code, planted_on, height_cm,"
              + " flowering, evergreen, status, visitor_interest, 'New', changed_at FROM accession"
              + " WHERE accession_no = 'QB-00001'");
      AuditReport found = audit(service, true);
      AuditReport.Result result = Objects.requireNonNull(found.result());
      assertThat(found.clean()).isFalse();
      assertThat(result.missing()).contains("QB-99999").doesNotContain("QB-00005");
      assertThat(result.stale()).contains("QB-00001", "QB-00002").doesNotContain("QB-00006");
      assertThat(result.extra()).contains("QB-00006").isSubsetOf("QB-00005", "QB-00006");
      assertThat(result.repaired()).isTrue();
      RunningService.await(() -> Boolean.TRUE.equals(audit(service, false).clean()));
      assertThat(service.client.record("plants", "QB-99999").agrees()).isTrue();
    }
  }

  @Test
  void samplesSingleRecordsAndHoursAreAskedFor(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 700);
    try (RunningService service = RunningService.start(folder)) {
      Map<String, String> files = new LinkedHashMap<>(GardenFiles.definitions());
      files.compute("plants.yaml", (name, text) -> text + "audits: {every: 5s, sample: 10%}\n");
      service.client.apply(files);
      service.awaitLive("plants");
      // By itself, as the definition says.
      RunningService.await(
          () ->
              service.client.audits("plants").stream()
                  .anyMatch(report -> String.valueOf(report.statement()).contains("sample")));
      RunningService.await(
          () ->
              service.client.audits("plants").stream()
                  .noneMatch(report -> report.state().equals("running")));
      service.client.apply(GardenFiles.definitions());
      service.awaitLive("plants");
      GardenFiles.runUnseen(
          garden, "UPDATE accession SET notes = 'Unseen' WHERE status = 'planted'");
      long one = service.client.auditRecord("plants", "QB-00001", false).id();
      assertThat(Objects.requireNonNull(ended(service, "plants", one).result()).stale())
          .containsExactly("QB-00001");
      long sample = service.client.auditSample("plants", "5%", true).id();
      AuditReport.Result found = Objects.requireNonNull(ended(service, "plants", sample).result());
      // 59 records show a difference of 5% with a certainty of 95%; nearly all differ here.
      assertThat(found.records()).isBetween(40L, 80L);
      assertThat(found.stale()).hasSizeGreaterThan(20);
    }
  }

  @Test
  void aRecordInQuarantineMayKeepItsFormerDocumentWithAMark(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 300);
    try (RunningService service = RunningService.start(folder)) {
      Map<String, String> files = new LinkedHashMap<>(GardenFiles.definitions());
      files.compute("plants.yaml", (name, text) -> text + "unreadable: keep\n");
      service.client.apply(files);
      service.awaitLive("plants");
      GardenFiles.run(
          garden,
          "UPDATE accession SET notes = 'Zygomorphic', status = 'planted', planted_on = '2020-01-01'"
              + " WHERE accession_no = 'QB-00003'");
      RunningService.await(() -> found(service).size() == 1);
      assertThat(found(service).getFirst().stale()).isNull();
      GardenFiles.run(
          garden, "UPDATE accession SET planted_on = 'soon' WHERE accession_no = 'QB-00003'");
      RunningService.await(() -> Boolean.TRUE.equals(found(service).getFirst().stale()));
      assertThat(audit(service, false).statement())
          .contains("; 0 missing, 0 stale, 0 extra; 1 in quarantine");
      service.client.dismiss("plants", "QB-00003");
      assertThat(service.client.quarantine("plants"))
          .extracting(QuarantinedRecord::recordKey, QuarantinedRecord::dismissed)
          .containsExactly(tuple("QB-00003", true));
      // It leaves with its row.
      GardenFiles.run(garden, "DELETE FROM accession WHERE accession_no = 'QB-00003'");
      RunningService.await(() -> found(service).isEmpty());
      assertThat(service.client.quarantine("plants")).isEmpty();
    }
  }

  private static List<SearchAnswer.Result> found(RunningService service) {
    return service.client.search("plant-search", SearchQuery.words("zygomorphic")).results();
  }

  private static AuditReport ended(RunningService service, String index, long id) {
    RunningService.await(
        () ->
            service.client.audits(index).stream()
                .anyMatch(report -> report.id() == id && !report.state().equals("running")));
    return service.client.audits(index).stream()
        .filter(report -> report.id() == id)
        .findFirst()
        .orElseThrow();
  }

  @Test
  void changesOnTheirWayAreNoDifferences(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 700);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      AtomicBoolean enough = new AtomicBoolean();
      CompletableFuture<Void> gardening =
          CompletableFuture.runAsync(
              () -> {
                try (Gardener gardener = new Gardener(garden, 3, Clock.systemUTC())) {
                  while (!enough.get()) {
                    gardener.change();
                    TimeUnit.MILLISECONDS.sleep(5);
                  }
                } catch (Exception e) {
                  throw new AssertionError(e);
                }
              });
      for (int i = 0; i < 5; i++) {
        assertThat(audit(service, false).statement())
            .contains("; 0 missing, 0 stale, 0 extra; 0 in quarantine");
      }
      enough.set(true);
      gardening.get(1, TimeUnit.MINUTES);
    }
  }
}
