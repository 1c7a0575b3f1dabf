package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.record.FileDrafts;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** Proposes definitions from a sample of records. */
@Tag(name = "Definitions")
@RestController
public class DraftController {
  private static final String CSV = "csv";
  private static final String NDJSON = "ndjson";

  private final FileDrafts drafts;

  public DraftController(FileDrafts drafts) {
    this.drafts = drafts;
  }

  /**
   * The first records of a file.
   *
   * @param name what the records are, such as the name of the file without its ending
   * @param format ndjson or csv
   * @param sample the first lines of the file, whole ones
   */
  public record SampleBody(
      @Nullable String name, @Nullable String format, @Nullable String sample) {}

  @Operation(
      summary = "Propose definitions for the records of a file",
      description =
          "A push source, an index and an endpoint, from the first records: every line with its"
              + " reason. Nothing is stored.")
  @PostMapping("/api/draft")
  public SourceController.DraftAnswer draft(@RequestBody SampleBody body) {
    if (body.name == null || body.sample == null) {
      throw new ProblemException(
          ProblemType.BAD_RECORDS, "'name', 'format' and 'sample' are wanted");
    }
    if (!CSV.equals(body.format) && !NDJSON.equals(body.format)) {
      throw new ProblemException(
          ProblemType.BAD_RECORDS,
          "'format' is %s or %s, not '%s'".formatted(NDJSON, CSV, body.format));
    }
    return new SourceController.DraftAnswer(
        drafts.draft(body.name, body.sample, CSV.equals(body.format)));
  }
}
