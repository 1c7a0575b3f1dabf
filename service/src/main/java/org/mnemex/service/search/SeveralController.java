package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.Parameter;
import io.swagger.v3.oas.annotations.enums.ParameterIn;
import io.swagger.v3.oas.annotations.media.ArraySchema;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.tags.Tag;
import jakarta.annotation.PreDestroy;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.Caller;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.web.Callers;
import org.mnemex.service.web.ProblemHandler;
import org.springframework.http.CacheControl;
import org.springframework.http.ResponseEntity;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** One search of several endpoints, for a box that searches everything. */
@Tag(name = "Search", description = "what frontends call")
@RestController
public class SeveralController {
  private static final int MAX_ENDPOINTS = 10;
  private static final String ENDPOINT = "endpoint";

  private final EndpointSearch search;
  private final Callers callers;
  private final ProblemHandler problems;
  private final ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor();

  SeveralController(EndpointSearch search, Callers callers, ProblemHandler problems) {
    this.search = search;
    this.callers = callers;
    this.problems = problems;
  }

  /**
   * What one of several endpoints answers; either of the two.
   *
   * @param answer its answer; null if it refused the search
   * @param problem why it refused the search, as a problem document (RFC 9457); or null
   */
  public record OneAnswer(@Nullable SearchAnswer answer, @Nullable Object problem) {}

  /**
   * What several endpoints answer.
   *
   * @param answers the answers by endpoint, in the order of the call
   */
  public record SeveralAnswers(Map<String, OneAnswer> answers) {}

  @Operation(
      summary = "Search several endpoints",
      description =
          "The same parameters for up to 10 endpoints at once; each answers for itself, or says"
              + " why it does not. Example: /search?endpoint=plant-search&endpoint=fern-search&q=fern&size=3")
  @Parameter(
      name = ENDPOINT,
      in = ParameterIn.QUERY,
      required = true,
      description = "an endpoint to search; repeated for several",
      array = @ArraySchema(schema = @Schema(type = "string")))
  @GetMapping("/search")
  public ResponseEntity<SeveralAnswers> searchSeveral(
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters) {
    Map<String, List<String>> rest = new LinkedHashMap<>(parameters);
    rest.remove(ENDPOINT);
    return answer(names(parameters), definition -> SearchBody.of(definition, rest));
  }

  @Operation(
      summary = "Search several endpoints, with a filter",
      description = "The endpoints are parameters, the search is the body.")
  @Parameter(
      name = ENDPOINT,
      in = ParameterIn.QUERY,
      required = true,
      description = "an endpoint to search; repeated for several",
      array = @ArraySchema(schema = @Schema(type = "string")))
  @PostMapping("/search")
  public ResponseEntity<SeveralAnswers> searchSeveral(
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters,
      @RequestBody SearchBody body) {
    return answer(names(parameters), definition -> body);
  }

  private static List<String> names(MultiValueMap<String, String> parameters) {
    List<String> names = parameters.getOrDefault(ENDPOINT, List.of()).stream().distinct().toList();
    if (names.isEmpty() || names.size() > MAX_ENDPOINTS) {
      throw new ProblemException(
          ProblemType.TOO_MANY_ENDPOINTS,
          "a call of several endpoints names 1 to %d by the parameter 'endpoint', not %d"
              .formatted(MAX_ENDPOINTS, names.size()));
    }
    return names;
  }

  private ResponseEntity<SeveralAnswers> answer(
      List<String> names, Function<EndpointDefinition, SearchBody> body) {
    Caller caller = callers.current();
    List<String> filters = caller == null ? List.of() : caller.filters();
    Map<String, Future<SearchAnswer>> running = new LinkedHashMap<>();
    for (String name : names) {
      running.put(name, threads.submit(() -> search.search(search.asked(name, filters, body))));
    }
    Map<String, OneAnswer> answers = new LinkedHashMap<>();
    running.forEach((name, one) -> answers.put(name, of(one)));
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(new SeveralAnswers(answers));
  }

  private OneAnswer of(Future<SearchAnswer> one) {
    try {
      return new OneAnswer(one.get(), null);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ProblemException(ProblemType.STOPPING, "the service is stopping");
    } catch (ExecutionException e) {
      if (e.getCause() instanceof RuntimeException refusal) {
        return new OneAnswer(null, problems.problem(refusal));
      }
      throw new IllegalStateException(e.getCause());
    }
  }

  @PreDestroy
  void stop() {
    threads.shutdownNow();
  }
}
