package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.compute.BoundedCalls;
import org.mnemex.service.definition.ScorecardDefinition;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.job.JobWork;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.store.ScoreMapper.ScoreRow;
import org.mnemex.service.web.JobResponses;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Scorecards: search quality by people's grades. */
@Tag(name = "Scorecards", description = "how good searches are by people's grades")
@RestController
public class ScorecardController {
  private final Scorecards scorecards;
  private final BoundedCalls calls;
  private final Jobs jobs;

  public ScorecardController(Scorecards scorecards, BoundedCalls calls, Jobs jobs) {
    this.jobs = jobs;
    this.scorecards = scorecards;
    this.calls = calls;
  }

  @Operation(summary = "List all scorecards")
  @GetMapping("/api/scorecards")
  public List<ScorecardDefinition> all() {
    return scorecards.all();
  }

  /**
   * What to score.
   *
   * @param settings definition of the endpoint, YAML, which need not be applied; null for the
   *     current one
   */
  public record ScoreBody(@Nullable String settings) {}

  @Operation(
      summary = "Score an edition",
      description =
          "The live one, if no number is given. The score is recorded, except with settings that"
              + " are only tried. With the header 'Prefer: respond-async' it is a job.")
  @PostMapping("/api/scorecards/{scorecard}/score")
  public ResponseEntity<Scorecards.Scored> score(
      @PathVariable String scorecard,
      @RequestParam(required = false) @Nullable Integer edition,
      @RequestHeader(name = "Prefer", required = false) @Nullable String prefer,
      @RequestBody(required = false) @Nullable ScoreBody body) {
    String settings = body == null ? null : body.settings();
    if (JobResponses.wanted(prefer)) {
      return JobResponses.accepted(
          jobs.begin(
              JobKind.SCORE,
              scorecard,
              edition == null ? "the live edition" : "edition " + edition,
              progress -> {
                Scorecards.Scored scored = scorecards.score(scorecard, edition, settings, progress);
                return new JobWork.Outcome(scored.told(), scored);
              }));
    }
    return ResponseEntity.ok(
        calls.runMany(
            "scoring", () -> scorecards.score(scorecard, edition, settings, JobProgress.NONE)));
  }

  @Operation(summary = "List earlier results of a scorecard, oldest first")
  @GetMapping("/api/scorecards/{scorecard}/history")
  public List<ScoreRow> history(@PathVariable String scorecard) {
    return scorecards.history(scorecard);
  }
}
