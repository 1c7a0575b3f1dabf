package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.compute.BoundedCalls;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Two editions side by side, by what people search for. */
@Tag(name = "Comparison", description = "what another edition would answer")
@RestController
public class ComparisonController {
  private static final int SHOWN = 200;

  private final EditionComparison comparison;
  private final RecordedQueries recorded;
  private final BoundedCalls calls;

  public ComparisonController(
      EditionComparison comparison, RecordedQueries recorded, BoundedCalls calls) {
    this.comparison = comparison;
    this.recorded = recorded;
    this.calls = calls;
  }

  @Operation(
      summary = "Compare the results of two editions",
      description =
          "Without queries, the most frequent ones are used. Without numbers, the live"
              + " edition is compared with the next one, or else the previous one.")
  @PostMapping("/api/endpoints/{endpoint}/compare")
  public ComparedEditions compare(
      @PathVariable String endpoint, @RequestBody EditionComparison.Wanted wanted) {
    return calls.runMany("comparing editions", () -> comparison.compare(endpoint, wanted));
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
