package org.mnemex.service.backup;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.net.URI;
import java.util.List;
import org.mnemex.service.job.JobView;
import org.mnemex.service.job.Jobs;
import org.springframework.core.io.FileSystemResource;
import org.springframework.core.io.Resource;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RestController;

/** Backups, and their files. */
@Tag(name = "Backups", description = "the state of one moment, to be kept elsewhere")
@RestController
class BackupController {
  private final Backups backups;
  private final Jobs jobs;

  BackupController(Backups backups, Jobs jobs) {
    this.backups = backups;
    this.jobs = jobs;
  }

  @Operation(
      summary = "Begin a backup",
      description =
          "Freezes the state of this moment, as a job. Its result names the backup, whose files can"
              + " then be fetched. Searches and changes go on.")
  @PostMapping("/api/backups")
  ResponseEntity<JobView> begin() {
    JobView job = jobs.one(backups.begin());
    return ResponseEntity.accepted().location(URI.create("/api/jobs/" + job.id())).body(job);
  }

  @Operation(
      summary = "List backups that can be fetched",
      description = "They are discarded after an hour in which nobody has fetched from them.")
  @GetMapping("/api/backups")
  List<Backups.BackupView> list() {
    return backups.list();
  }

  @Operation(
      summary = "Get what a backup consists of",
      description = "Written beside its files as `backup.json`, it completes the backup.")
  @GetMapping("/api/backups/{backup}")
  BackupContent content(@PathVariable String backup) {
    return backups.content(backup);
  }

  @Operation(summary = "Get a file of a backup", description = "Ranges can be asked for.")
  @GetMapping(
      path = "/api/backups/{backup}/files/{*path}",
      produces = MediaType.APPLICATION_OCTET_STREAM_VALUE)
  Resource file(@PathVariable String backup, @PathVariable String path) {
    return new FileSystemResource(backups.file(backup, path.substring(1)));
  }

  @Operation(
      summary = "Discard a backup",
      description = "When it has been fetched: the room that it holds is free again.")
  @DeleteMapping("/api/backups/{backup}")
  ResponseEntity<Void> discard(@PathVariable String backup) {
    backups.discard(backup);
    return ResponseEntity.noContent().build();
  }
}
