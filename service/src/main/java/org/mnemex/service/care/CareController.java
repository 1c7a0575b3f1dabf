package org.mnemex.service.care;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.net.URI;
import org.mnemex.service.job.JobView;
import org.mnemex.service.job.Jobs;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RestController;

/** The room that indexes take. */
@Tag(name = "Indexes")
@RestController
class CareController {
  private final Compactions compactions;
  private final SpaceReports reports;
  private final Jobs jobs;

  CareController(Compactions compactions, SpaceReports reports, Jobs jobs) {
    this.compactions = compactions;
    this.reports = reports;
    this.jobs = jobs;
  }

  @Operation(
      summary = "Compact the live edition of an index",
      description =
          "Merges all segments into one, without what is deleted, as a job. Searches and changes go"
              + " on. Until it is done, the disk needs room for both.")
  @PostMapping("/api/indexes/{index}/compact")
  ResponseEntity<JobView> compact(@PathVariable String index) {
    JobView job = jobs.one(compactions.begin(index));
    return ResponseEntity.accepted().location(URI.create("/api/jobs/" + job.id())).body(job);
  }

  @Operation(summary = "Get the sizes of an index by field, and ways to save space")
  @GetMapping("/api/indexes/{index}/sizes")
  SpaceReport sizes(@PathVariable String index) {
    return reports.of(index);
  }
}
