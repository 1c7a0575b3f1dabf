package org.mnemex.service.search;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.Parameter;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
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

  public EndpointController(EndpointSearch search) {
    this.search = search;
  }

  /**
   * A search as JSON; everything may be left out.
   *
   * @param facets chosen values by facet
   * @param where a filter like the predicate part of SQL
   */
  public record SearchBody(
      @Nullable String q,
      @Nullable Boolean typing,
      @Nullable Map<String, List<String>> facets,
      @Nullable String where,
      @Nullable String sort,
      @Nullable Integer page,
      @Nullable Integer size) {}

  @Operation(
      summary = "Search an endpoint",
      description =
          "Facets are chosen by their own names as parameters, repeated for several values."
              + " Example: /search/plant-search?q=shade+fern&family=Aspleniaceae&height=30..100")
  @GetMapping("/search/{endpoint}")
  public ResponseEntity<SearchAnswer> search(
      @PathVariable String endpoint,
      @Parameter(hidden = true) @RequestParam MultiValueMap<String, String> parameters) {
    return answer(search.search(endpoint, definition -> SearchCall.of(definition, parameters)));
  }

  @Operation(summary = "Search an endpoint, with a filter")
  @PostMapping("/search/{endpoint}")
  public ResponseEntity<SearchAnswer> search(
      @PathVariable String endpoint, @RequestBody SearchBody body) {
    return answer(
        search.search(
            endpoint,
            definition ->
                SearchCall.checked(
                    definition,
                    new SearchCall(
                        body.q == null ? "" : body.q,
                        Boolean.TRUE.equals(body.typing),
                        body.facets == null ? Map.of() : body.facets,
                        body.where,
                        body.sort,
                        body.page == null ? 1 : body.page,
                        body.size == null ? definition.pageSize() : body.size))));
  }

  private static ResponseEntity<SearchAnswer> answer(SearchAnswer answer) {
    return ResponseEntity.ok().cacheControl(CacheControl.noStore()).body(answer);
  }
}
