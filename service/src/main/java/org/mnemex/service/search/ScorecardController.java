package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.compute.BoundedCalls;
import org.mnemex.service.definition.ScorecardDefinition;
import org.mnemex.service.store.ScoreMapper.ScoreRow;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Scorecards: search quality by people's grades. */
@Tag(name = "Scorecards", description = "how good searches are by people's grades")
@RestController
public class ScorecardController {
  private final Scorecards scorecards;
  private final BoundedCalls calls;

  public ScorecardController(Scorecards scorecards, BoundedCalls calls) {
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
              + " are only tried.")
  @PostMapping("/api/scorecards/{scorecard}/score")
  public Scorecards.Scored score(
      @PathVariable String scorecard,
      @RequestParam(required = false) @Nullable Integer edition,
      @RequestBody(required = false) @Nullable ScoreBody body) {
    return calls.runMany(
        "scoring",
        () -> scorecards.score(scorecard, edition, body == null ? null : body.settings()));
  }

  @Operation(summary = "List earlier results of a scorecard, oldest first")
  @GetMapping("/api/scorecards/{scorecard}/history")
  public List<ScoreRow> history(@PathVariable String scorecard) {
    return scorecards.history(scorecard);
  }
}
