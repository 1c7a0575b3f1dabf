package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Right;
import org.mnemex.service.compute.BoundedCalls;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.job.JobWork;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.web.Callers;
import org.mnemex.service.web.JobResponses;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Two editions side by side, by what people search for. */
@Tag(name = "Comparison", description = "what another edition would answer")
@RestController
public class ComparisonController {
  private static final int SHOWN = 200;

  private final EditionComparison comparison;
  private final RecordedSearches recorded;
  private final BoundedCalls calls;
  private final Callers callers;
  private final Jobs jobs;

  public ComparisonController(
      EditionComparison comparison,
      RecordedSearches recorded,
      BoundedCalls calls,
      Callers callers,
      Jobs jobs) {
    this.jobs = jobs;
    this.comparison = comparison;
    this.recorded = recorded;
    this.calls = calls;
    this.callers = callers;
  }

  @Operation(
      summary = "Compare the results of two editions",
      description =
          "Without queries, the most frequent ones are used. Without numbers, the live"
              + " edition is compared with the next one, or else the previous one; with files, with"
              + " itself as it would be under these definitions. With the header"
              + " 'Prefer: respond-async' it is a job.")
  @PostMapping("/api/endpoints/{endpoint}/compare")
  public ResponseEntity<ComparedEditions> compare(
      @PathVariable String endpoint,
      @RequestHeader(name = "Prefer", required = false) @Nullable String prefer,
      @RequestBody EditionComparison.Wanted wanted) {
    Caller caller = callers.current();
    boolean tries = wanted.files() != null && !wanted.files().isEmpty();
    if (tries && (caller == null || caller.right() != Right.ADMIN)) {
      // Definitions may refer to secrets and files of this machine.
      throw new ProblemException(
          ProblemType.NOT_ALLOWED, "trying definitions needs the right admin");
    }
    if (JobResponses.wanted(prefer)) {
      return JobResponses.accepted(
          jobs.begin(
              JobKind.COMPARE,
              endpoint,
              tries ? "definitions" : "editions",
              progress -> {
                ComparedEditions compared = comparison.compare(endpoint, wanted, progress);
                return new JobWork.Outcome(compared.told(), compared);
              }));
    }
    return ResponseEntity.ok(
        calls.runMany(
            "comparing editions", () -> comparison.compare(endpoint, wanted, JobProgress.NONE)));
  }

  @Operation(summary = "Explain a record's score in two editions")
  @GetMapping("/api/endpoints/{endpoint}/compare/explain")
  public EditionComparison.ComparedExplanations explain(
      @PathVariable String endpoint,
      @RequestParam String q,
      @RequestParam String key,
      @RequestParam(required = false) @Nullable Integer left,
      @RequestParam(required = false) @Nullable Integer right) {
    return comparison.explain(endpoint, q, key, left, right);
  }

  @Operation(summary = "List the most frequent queries of an endpoint")
  @GetMapping("/api/endpoints/{endpoint}/queries")
  public List<String> queries(@PathVariable String endpoint) {
    return recorded.most(endpoint, SHOWN);
  }
}
