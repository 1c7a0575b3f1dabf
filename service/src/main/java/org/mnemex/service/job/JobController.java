package org.mnemex.service.job;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Jobs. */
@Tag(name = "Jobs", description = "what takes long and runs by itself")
@RestController
class JobController {
  private final Jobs jobs;

  JobController(Jobs jobs) {
    this.jobs = jobs;
  }

  @Operation(
      summary = "List the latest jobs, newest first",
      description =
          "Fills of editions, audits, comparisons, scores, compactions, backups and restores, and"
              + " imports and exports that take more than two seconds; the latest 1,000 are kept.")
  @GetMapping("/api/jobs")
  List<JobView> list(
      @RequestParam(required = false) @Nullable String about,
      @RequestParam(defaultValue = "50") int limit) {
    return jobs.list(about, limit);
  }

  @Operation(summary = "Get a job with its log and its result")
  @GetMapping("/api/jobs/{job}")
  JobView one(@PathVariable long job) {
    return jobs.one(job);
  }

  @Operation(
      summary = "Cancel a job",
      description =
          "It ends at its next step. An edition that is being filled cannot be cancelled.")
  @PostMapping("/api/jobs/{job}/cancel")
  ResponseEntity<JobView> cancel(@PathVariable long job) {
    return ResponseEntity.accepted().body(jobs.cancel(job));
  }
}
