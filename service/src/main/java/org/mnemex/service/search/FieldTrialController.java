package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.compute.BoundedCalls;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** What another analyser would change about a field. */
@Tag(name = "Analysers", description = "what text is cut into")
@RestController
public class FieldTrialController {
  private final FieldTrial trial;

  private final BoundedCalls calls;

  public FieldTrialController(FieldTrial trial, BoundedCalls calls) {
    this.trial = trial;
    this.calls = calls;
  }

  /**
   * The analyser to try.
   *
   * @param analyser its name
   * @param definition instead of a name, its definition in YAML, which need not be applied
   */
  public record TrialBody(@Nullable String analyser, @Nullable String definition) {}

  @Operation(
      summary = "Try another analyser on a field",
      description =
          "On the stored records of up to 2,000 documents and on recorded queries. Nothing is"
              + " changed.")
  @PostMapping("/api/indexes/{index}/fields/{field}/try")
  public FieldTrial.Tried run(
      @PathVariable String index, @PathVariable String field, @RequestBody TrialBody body) {
    return calls.run(
        "trying an analyser on a field",
        () -> trial.run(index, field, body.analyser(), body.definition()));
  }
}
