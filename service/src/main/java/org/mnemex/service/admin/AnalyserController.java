package org.mnemex.service.admin;

import com.fasterxml.jackson.annotation.JsonSetter;
import com.fasterxml.jackson.annotation.Nulls;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.service.compute.BoundedCalls;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.status.Analysers;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** Analysers: which there are and what they do. */
@Tag(name = "Analysers", description = "which there are and what they do")
@RestController
public class AnalyserController {
  private static final int MAX_TEXT = 20_000;
  private static final int MAX_ANALYSERS = 10;

  private final Analysers analysers;
  private final BoundedCalls calls;

  public AnalyserController(Analysers analysers, BoundedCalls calls) {
    this.analysers = analysers;
    this.calls = calls;
  }

  /**
   * An analyser.
   *
   * @param name name of the analyser
   * @param builtIn whether it comes with Mnemex
   * @param chain its steps in order
   * @param definition the analyser as a YAML definition, ready to copy and change
   * @param warnings steps that usually do harm, and what the chain cannot do
   */
  public record AnalyserAnswer(
      String name, boolean builtIn, List<String> chain, String definition, List<String> warnings) {}

  /**
   * A text and the analysers to try on it.
   *
   * @param text the text
   * @param analysers names of the analysers
   */
  public record TryBody(
      String text, @JsonSetter(contentNulls = Nulls.FAIL) List<String> analysers) {}

  /**
   * The result of each step of an analyser.
   *
   * @param analyser name of the analyser
   * @param steps its steps in order
   */
  public record TryAnswer(String analyser, List<StepAnswer> steps) {}

  /**
   * The result of one step.
   *
   * @param step the step
   * @param text the changed text; null if the step produced tokens
   * @param tokens the tokens; empty if the step produced text
   */
  public record StepAnswer(String step, @Nullable String text, List<AnalysedToken> tokens) {}

  @Operation(summary = "List all analysers")
  @GetMapping("/api/analysers")
  public List<AnalyserAnswer> list() {
    return analysers.all().stream()
        .map(
            analyser ->
                new AnalyserAnswer(
                    analyser.name(),
                    analysers.isBuiltIn(analyser.name()),
                    chain(analyser),
                    analyser
                        .spec()
                        .yaml(
                            analysers.isBuiltIn(analyser.name())
                                ? "my-" + analyser.name()
                                : analyser.name()),
                    warnings(analyser)))
        .toList();
  }

  private List<String> warnings(Analyser analyser) {
    List<String> warnings = new ArrayList<>(analyser.warnings());
    if (analysers.isBuiltIn(analyser.name()) && Components.isWithoutStemmer(analyser.name())) {
      warnings.add(
          "there is no stemmer for this language: a word is found in the form in which it was written");
    }
    return warnings;
  }

  private static List<String> chain(Analyser analyser) {
    return List.of(analyser.signature().split(" \\| "));
  }

  @Operation(summary = "Try analysers on a text, step by step")
  @PostMapping("/api/analysers/try")
  public List<TryAnswer> tryOut(@RequestBody TryBody body) {
    String text = body.text();
    List<String> names = body.analysers();
    if (text == null || names == null || names.isEmpty()) {
      throw new ProblemException(
          ProblemType.BAD_BODY, "'text' and at least one of 'analysers' are needed");
    }
    if (text.length() > MAX_TEXT || names.size() > MAX_ANALYSERS) {
      throw new ProblemException(
          ProblemType.TOO_LARGE,
          "at most %d characters and %d analysers at a time".formatted(MAX_TEXT, MAX_ANALYSERS));
    }
    return calls.run(
        "trying analysers",
        () -> names.stream().map(name -> tryOut(analysers.get(name), text)).toList());
  }

  private static TryAnswer tryOut(Analyser analyser, String text) {
    return new TryAnswer(
        analyser.name(),
        analyser.trace(text).stream()
            .map(step -> new StepAnswer(step.name(), step.text(), step.tokens()))
            .toList());
  }
}
