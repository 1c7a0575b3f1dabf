package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.net.URI;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.record.DefinitionPreview;
import org.mnemex.service.record.RecordTrace;
import org.mnemex.service.search.Endpoints;
import org.mnemex.service.status.Audits;
import org.mnemex.service.status.IndexView;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.store.QuarantineMapper.QuarantineRow;
import org.mnemex.sync.definition.AuditPlan;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.feed.ChangeTrace;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Indexes: their state, their changes, and single records. */
@Tag(name = "Indexes", description = "how they are doing, and their records")
@RestController
public class IndexController {
  private static final int MAX_CHANGES = 1000;

  private final Indexes indexes;
  private final Endpoints endpoints;
  private final RecordTrace traces;
  private final Audits audits;
  private final DefinitionPreview preview;

  public IndexController(
      Indexes indexes,
      Endpoints endpoints,
      RecordTrace traces,
      Audits audits,
      DefinitionPreview preview) {
    this.preview = preview;
    this.audits = audits;
    this.indexes = indexes;
    this.endpoints = endpoints;
    this.traces = traces;
  }

  @Operation(summary = "List all indexes")
  @GetMapping("/api/indexes")
  public List<Indexes.IndexStatus> list() {
    return indexes.all();
  }

  @Operation(summary = "Get the state of an index")
  @GetMapping("/api/indexes/{index}")
  public Indexes.IndexStatus one(@PathVariable String index) {
    return indexes.one(index);
  }

  @Operation(summary = "Get the tables and fields of an index")
  @GetMapping("/api/indexes/{index}/shape")
  public IndexView shape(@PathVariable String index) {
    return preview.view(index);
  }

  @Operation(summary = "List the latest changes of an index, newest first")
  @GetMapping("/api/indexes/{index}/changes")
  public List<ChangeTrace> changes(
      @PathVariable String index, @RequestParam(defaultValue = "50") int limit) {
    return indexes.changes(index, Math.clamp(limit, 1, MAX_CHANGES));
  }

  @Operation(summary = "List the records in quarantine")
  @GetMapping("/api/indexes/{index}/quarantine")
  public List<QuarantineRow> quarantine(@PathVariable String index) {
    return indexes.quarantine(index);
  }

  /**
   * What was retried.
   *
   * @param records number of records that are read again
   */
  public record RetryAnswer(int records) {}

  @Operation(
      summary = "Retry records in quarantine",
      description =
          "They are retried when their rows change; this is for problems that were fixed"
              + " elsewhere.")
  @PostMapping("/api/indexes/{index}/quarantine/retry")
  public ResponseEntity<RetryAnswer> retryQuarantine(
      @PathVariable String index, @RequestParam(required = false) @Nullable String key) {
    return ResponseEntity.accepted().body(new RetryAnswer(indexes.retryQuarantine(index, key)));
  }

  @Operation(
      summary = "Dismiss a record in quarantine",
      description =
          "It stays out of the index and counts in audits, but is listed last until its reason"
              + " changes.")
  @PostMapping("/api/indexes/{index}/quarantine/dismiss")
  public ResponseEntity<Void> dismiss(@PathVariable String index, @RequestParam String key) {
    indexes.dismiss(index, key);
    return ResponseEntity.noContent().build();
  }

  @Operation(summary = "Trace a record from the database to the index")
  @GetMapping("/api/indexes/{index}/records/{*key}")
  public RecordTrace.Traced record(@PathVariable String index, @PathVariable String key) {
    return traces.trace(index, key.startsWith("/") ? key.substring(1) : key);
  }

  /**
   * What to audit, and what to do about differences.
   *
   * @param repair whether to repair differences
   * @param sample the share of differing records that a sample must notice, like {@code 0.1%}; null
   *     audits all records
   * @param key key of a single record to audit
   */
  public record AuditBody(@Nullable Boolean repair, @Nullable String sample, @Nullable String key) {
    AuditScope scope() {
      if (key != null) {
        return new AuditScope.Key(key);
      }
      try {
        return sample == null ? new AuditScope.All() : AuditPlan.sample(sample);
      } catch (IllegalArgumentException e) {
        throw new ProblemException(ProblemType.BAD_SAMPLE, "sample: " + e.getMessage());
      }
    }
  }

  @Operation(
      summary = "Start an audit",
      description =
          "Compares every record of the database with the live edition, or a sample, or one record."
              + " It runs as a job; ask for the job, or for the audits, to see how it goes.")
  @PostMapping("/api/indexes/{index}/audits")
  public ResponseEntity<Audits.AuditView> audit(
      @PathVariable String index, @RequestBody(required = false) @Nullable AuditBody body) {
    boolean repair = body != null && Boolean.TRUE.equals(body.repair());
    AuditScope scope = body == null ? new AuditScope.All() : body.scope();
    Audits.AuditView begun = audits.begin(index, scope, repair);
    return ResponseEntity.accepted().location(URI.create("/api/jobs/" + begun.job())).body(begun);
  }

  @Operation(summary = "List the latest audits, newest first")
  @GetMapping("/api/indexes/{index}/audits")
  public List<Audits.AuditView> audits(@PathVariable String index) {
    return audits.list(index);
  }

  @Operation(summary = "List all endpoints")
  @GetMapping("/api/endpoints")
  public List<EndpointDefinition> endpoints() {
    return endpoints.all();
  }
}
