package org.mnemex.service.search;

import com.fasterxml.jackson.annotation.JsonSetter;
import com.fasterxml.jackson.annotation.Nulls;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.time.Instant;
import java.util.List;
import org.mnemex.service.install.DefinitionFile;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Endpoints as they would be under definitions that are not applied. */
@Tag(name = "Comparison", description = "what another edition would answer")
@RestController
class EndpointTrialController {
  private final EndpointTrials trials;
  private final Endpoints endpoints;

  EndpointTrialController(EndpointTrials trials, Endpoints endpoints) {
    this.trials = trials;
    this.endpoints = endpoints;
  }

  /**
   * What to try.
   *
   * @param files definitions of the endpoint, its curations, its synonyms
   */
  record TriedFiles(@JsonSetter(contentNulls = Nulls.FAIL) List<DefinitionFile> files) {}

  /**
   * A trial.
   *
   * @param endpoint the name to call instead of the endpoint's, in all paths under {@code /search}
   *     and {@code /pages}
   * @param until when it ends
   */
  record EndpointTrial(String endpoint, Instant until) {}

  @Operation(
      summary = "Try definitions on an endpoint",
      description =
          "For an hour, the endpoint can be called under another name as it would be under these"
              + " definitions. Nothing is changed, and its searches are not counted. Definitions"
              + " that need a new edition cannot be tried like this. Only the last 32 trials are"
              + " kept.")
  @PostMapping("/api/endpoints/{endpoint}/trials")
  @ResponseStatus(HttpStatus.CREATED)
  EndpointTrial begin(@PathVariable String endpoint, @RequestBody TriedFiles body) {
    List<DefinitionFile> files = body.files() == null ? List.of() : body.files();
    endpoints.trying(endpoint, files);
    EndpointTrials.Trial trial = trials.begin(endpoint, files);
    return new EndpointTrial(trial.name(), trial.until());
  }
}
