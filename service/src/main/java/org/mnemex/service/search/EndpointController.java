package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.Parameter;
import io.swagger.v3.oas.annotations.enums.ParameterIn;
import io.swagger.v3.oas.annotations.media.ArraySchema;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.request.Explanation;
import org.mnemex.service.access.Caller;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.web.Callers;
import org.springframework.http.CacheControl;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What frontends call. */
@Tag(name = "Search", description = "what frontends call")
@RestController
public class EndpointController {
  private static final int SUGGESTIONS = 8;

  /** Kept by the caller alone, and used again only when the service says that nothing changed. */
  private static final CacheControl CHECKED = CacheControl.noCache().cachePrivate();

  private final EndpointSearch search;
  private final TypedCompletions completions;
  private final Callers callers;

  public EndpointController(EndpointSearch search, TypedCompletions completions, Callers callers) {
    this.search = search;
    this.completions = completions;
    this.callers = callers;
  }

  /** The filters of the caller's key and token, which are part of everything that it asks. */
  private List<String> filters() {
    Caller caller = callers.current();
    return caller == null ? List.of() : caller.filters();
  }

  @Operation(
      summary = "Search an endpoint",
      description =
          "Facets are chosen by their own names as parameters, repeated for several values."
              + " Example: /search/plant-search?q=shade+fern&family=Aspleniaceae&height=30..100")
  @GetMapping("/search/{endpoint}")
  public ResponseEntity<SearchAnswer> search(
      @PathVariable String endpoint,
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters,
      @Parameter(hidden = true) @RequestHeader HttpHeaders headers) {
    EndpointSearch.Asked asked =
        search.asked(endpoint, filters(), definition -> SearchBody.of(definition, parameters));
    String tag = asked.tag();
    if (headers.getIfNoneMatch().contains(tag)) {
      return ResponseEntity.status(HttpStatus.NOT_MODIFIED).cacheControl(CHECKED).eTag(tag).build();
    }
    SearchAnswer answer = search.search(asked);
    ResponseEntity.BodyBuilder response = ResponseEntity.ok();
    if (answer.missingShards() == null) {
      response.cacheControl(CHECKED).eTag(tag);
    } else {
      response.cacheControl(CacheControl.noStore());
    }
    List<String> links = Links.of(asked.call(), answer);
    if (!links.isEmpty()) {
      response.header(HttpHeaders.LINK, String.join(", ", links));
    }
    return response.body(answer);
  }

  @Operation(summary = "Search an endpoint, with a filter")
  @PostMapping("/search/{endpoint}")
  public ResponseEntity<SearchAnswer> search(
      @PathVariable String endpoint, @RequestBody SearchBody body) {
    SearchAnswer answer = search.search(search.asked(endpoint, filters(), definition -> body));
    return ResponseEntity.ok().cacheControl(CacheControl.noStore()).body(answer);
  }

  @Operation(
      summary = "Search the values of a facet",
      description =
          "The values with a word that starts with this, with their counts over the results of"
              + " the same search. Example: /search/plant-search/facets/family?begins=asp&q=fern")
  @GetMapping("/search/{endpoint}/facets/{facet}")
  public ResponseEntity<SearchAnswer.FacetValues> facet(
      @PathVariable String endpoint,
      @PathVariable String facet,
      @RequestParam(defaultValue = "") String begins,
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters) {
    Map<String, List<String>> rest = new LinkedHashMap<>(parameters);
    rest.remove("begins");
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(
            search.facet(
                endpoint, filters(), definition -> SearchBody.of(definition, rest), facet, begins));
  }

  @Operation(
      summary = "Get records by their keys",
      description =
          "Up to 100, as results show them, in the order of the keys. Keys without a record that"
              + " the caller may see are listed as missing.")
  @Parameter(
      name = "key",
      in = ParameterIn.QUERY,
      required = true,
      array = @ArraySchema(schema = @Schema(type = "string")))
  @GetMapping("/search/{endpoint}/records")
  public ResponseEntity<SearchAnswer.Records> records(
      @PathVariable String endpoint,
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters) {
    // Not a list as a parameter, which would be split at commas, and keys may have some.
    List<String> keys = parameters.getOrDefault("key", List.of());
    if (keys.isEmpty() || parameters.size() > 1) {
      throw new ProblemException(
          ProblemType.UNKNOWN_PARAMETER,
          "records are asked for by one or more parameters 'key', and no other");
    }
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(search.records(endpoint, filters(), keys));
  }

  @Operation(
      summary = "Get a record by its key",
      description = "As results show it; 404 if the caller may not see it.")
  @GetMapping("/search/{endpoint}/records/{*key}")
  public ResponseEntity<SearchAnswer.Result> record(
      @PathVariable String endpoint, @PathVariable String key) {
    String plain = key.startsWith("/") ? key.substring(1) : key;
    List<SearchAnswer.Result> found = search.records(endpoint, filters(), List.of(plain)).results();
    if (found.isEmpty()) {
      throw EndpointSearch.noRecord(endpoint, plain).inAddress();
    }
    return ResponseEntity.ok().cacheControl(CacheControl.noStore()).body(found.getFirst());
  }

  @Operation(
      summary = "Describe an endpoint",
      description =
          "The endpoint's own parameters, facets and fields with their types, as OpenAPI 3.1, with"
              + " examples from records that the caller may see. Clients can be generated from it.",
      responses =
          @ApiResponse(
              responseCode = "200",
              content =
                  @Content(mediaType = "application/json", schema = @Schema(type = "object"))))
  @GetMapping(
      value = "/search/{endpoint}/openapi.json",
      produces = MediaType.APPLICATION_JSON_VALUE)
  public ResponseEntity<String> contract(@PathVariable String endpoint) {
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(search.contract(endpoint, filters()));
  }

  @Operation(
      summary = "Explain a score",
      description = "The parts of the score of one record, or why it is not a result.")
  @PostMapping("/search/{endpoint}/explain")
  public Explanation explain(
      @PathVariable String endpoint, @RequestParam String key, @RequestBody SearchBody body) {
    return search.explain(endpoint, filters(), definition -> body, key);
  }

  @Operation(
      summary = "Tell which result was opened",
      description =
          "So that it can be reported what people find, and what they do not. Each result of an"
              + " answer counts once, for a day. Without 'key', it says that words were meant although they"
              + " were still being typed.")
  @PostMapping("/search/{endpoint}/chosen")
  @ResponseStatus(HttpStatus.NO_CONTENT)
  public void chosen(@PathVariable String endpoint, @RequestBody Chosen chosen) {
    search.chosen(endpoint, filters(), chosen);
  }

  /**
   * Completions.
   *
   * @param suggestions the completions, best first
   * @param missingShards numbers of shards that nobody could be asked for; null if there are none
   */
  public record SuggestAnswer(
      List<TypedCompletions.Completion> suggestions, @Nullable List<Integer> missingShards) {}

  @Operation(summary = "Complete what is being typed")
  @Parameter(name = "q", in = ParameterIn.QUERY, description = "what was typed")
  @Parameter(
      name = "size",
      in = ParameterIn.QUERY,
      description = "the most completions; otherwise 8",
      schema = @Schema(type = "integer"))
  @GetMapping("/search/{endpoint}/suggest")
  public ResponseEntity<SuggestAnswer> suggest(
      @PathVariable String endpoint,
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters) {
    Parameters read =
        Parameters.known(parameters, Set.of("q", "size"), Set.of(), "a call for completions");
    String typed = Objects.requireNonNullElse(read.text("q"), "");
    int size = Objects.requireNonNullElse(read.number("size"), SUGGESTIONS);
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(completions.of(endpoint, filters(), typed, size));
  }
}
