package org.mnemex.service.search;

import com.fasterxml.jackson.annotation.JsonProperty;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.Parameter;
import io.swagger.v3.oas.annotations.enums.ParameterIn;
import io.swagger.v3.oas.annotations.media.ArraySchema;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.suggest.Suggestion;
import org.mnemex.service.access.Caller;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.web.Callers;
import org.springframework.http.CacheControl;
import org.springframework.http.ResponseEntity;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What frontends call. */
@Tag(name = "Search", description = "what frontends call")
@RestController
public class EndpointController {
  private final EndpointSearch search;
  private final Callers callers;

  public EndpointController(EndpointSearch search, Callers callers) {
    this.search = search;
    this.callers = callers;
  }

  /** The filters of the caller's key and token, which are part of everything that it asks. */
  private List<String> filters() {
    Caller caller = callers.current();
    return caller == null ? List.of() : caller.filters();
  }

  /**
   * A search as JSON. Every key may be left out.
   *
   * @param q the words to search for
   * @param similarTo key of a record; finds records like it
   * @param similarText a text; finds records like it
   * @param typing whether the last word is still being typed
   * @param facets chosen values by facet
   * @param where a filter, written like a condition in SQL
   * @param sort name of a sort order of the endpoint
   * @param group name of a grouping of the endpoint
   * @param page number of the page, from 1
   * @param size results per page
   * @param near the caller's place, {@code latitude,longitude} in degrees
   * @param after {@code next} of the answer before
   * @param trueFor a position that the answer must include
   */
  public record SearchBody(
      @Nullable String q,
      @JsonProperty("similar_to") @Nullable String similarTo,
      @JsonProperty("similar_text") @Nullable String similarText,
      @Nullable Boolean typing,
      @Nullable Map<String, List<String>> facets,
      @Nullable String where,
      @Nullable String sort,
      @Nullable String group,
      @Nullable Integer page,
      @Nullable Integer size,
      @Nullable String near,
      @Nullable String after,
      @JsonProperty("true_for") @Nullable String trueFor) {
    SearchCall call(EndpointDefinition definition) {
      if (facets != null) {
        facets.forEach(
            (facet, values) -> {
              if (values == null || values.contains(null)) {
                throw new ProblemException(
                    ProblemType.BAD_BODY, "facet '" + facet + "' takes a list of texts");
              }
            });
      }
      return SearchCall.checked(
          definition,
          new SearchCall(
              q == null ? "" : q,
              similarTo,
              similarText,
              Boolean.TRUE.equals(typing),
              facets == null ? Map.of() : facets,
              where,
              sort,
              group,
              page == null ? 1 : page,
              size == null ? definition.pageSize() : size,
              near,
              after,
              trueFor));
    }
  }

  @Operation(
      summary = "Search an endpoint",
      description =
          "Facets are chosen by their own names as parameters, repeated for several values."
              + " Example: /search/plant-search?q=shade+fern&family=Aspleniaceae&height=30..100")
  @GetMapping("/search/{endpoint}")
  public ResponseEntity<SearchAnswer> search(
      @PathVariable String endpoint,
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters) {
    return answer(
        search.search(endpoint, filters(), definition -> SearchCall.of(definition, parameters)));
  }

  @Operation(summary = "Search an endpoint, with a filter")
  @PostMapping("/search/{endpoint}")
  public ResponseEntity<SearchAnswer> search(
      @PathVariable String endpoint, @RequestBody SearchBody body) {
    return answer(search.search(endpoint, filters(), body::call));
  }

  @Operation(
      summary = "Search the values of a facet",
      description =
          "The values with a word that starts with this, with their counts over the results of"
              + " the same search. Example: /search/plant-search/facets/family?begins=asp&q=fern")
  @GetMapping("/search/{endpoint}/facets/{facet}")
  public ResponseEntity<SearchAnswer.Facet> facet(
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
                endpoint, filters(), definition -> SearchCall.of(definition, rest), facet, begins));
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
      throw new ProblemException(
              ProblemType.UNKNOWN_RECORD,
              "endpoint '%s' has no record '%s'".formatted(endpoint, plain))
          .inAddress();
    }
    return ResponseEntity.ok().cacheControl(CacheControl.noStore()).body(found.getFirst());
  }

  @Operation(
      summary = "Explain a score",
      description = "The parts of the score of one record, or why it is not a result.")
  @PostMapping("/search/{endpoint}/explain")
  public Explanation explain(
      @PathVariable String endpoint, @RequestParam String key, @RequestBody SearchBody body) {
    return search.explain(endpoint, filters(), body::call, key);
  }

  /**
   * Completions.
   *
   * @param suggestions the completions, best first
   */
  public record SuggestAnswer(List<Suggestion> suggestions) {}

  @Operation(summary = "Complete what is being typed")
  @GetMapping("/search/{endpoint}/suggest")
  public ResponseEntity<SuggestAnswer> suggest(
      @PathVariable String endpoint,
      @RequestParam(defaultValue = "") String q,
      @RequestParam(defaultValue = "8") int size) {
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(new SuggestAnswer(search.suggest(endpoint, filters(), q, size)));
  }

  private static ResponseEntity<SearchAnswer> answer(SearchAnswer answer) {
    return ResponseEntity.ok().cacheControl(CacheControl.noStore()).body(answer);
  }
}
