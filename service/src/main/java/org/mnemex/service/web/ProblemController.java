package org.mnemex.service.web;

import io.swagger.v3.oas.annotations.Operation;
import java.util.Arrays;
import java.util.List;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RestController;

/** Explains the type of a problem document, at the type's own URI. */
@RestController
class ProblemController {
  /**
   * A type of problem.
   *
   * @param type last part of the type's URI
   * @param status the usual HTTP status of such an answer
   * @param meaning what it means and what to do
   */
  record Meaning(String type, int status, String meaning) {}

  @Operation(summary = "List all types of problems")
  @GetMapping("/problems")
  List<Meaning> all() {
    return Arrays.stream(ProblemType.values()).map(ProblemController::meaning).toList();
  }

  @Operation(summary = "Explain a type of problem")
  @GetMapping("/problems/{type}")
  Meaning meaning(@PathVariable String type) {
    ProblemType known = ProblemType.of(type);
    if (known == null) {
      throw new ProblemException(
          ProblemType.NOT_FOUND, "there is no problem type '%s'".formatted(type));
    }
    return meaning(known);
  }

  private static Meaning meaning(ProblemType type) {
    return new Meaning(type.word(), type.status(), type.meaning());
  }
}
