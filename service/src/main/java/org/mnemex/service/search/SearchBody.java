package org.mnemex.service.search;

import com.fasterxml.jackson.annotation.JsonFormat;
import com.fasterxml.jackson.annotation.JsonProperty;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.problem.ProblemException;

/**
 * A search as JSON. Every key may be left out. The parameters of a query string are the same keys,
 * with chosen values under the names of their facets.
 *
 * @param q the words to search for
 * @param similarTo key of a record; finds records like it
 * @param similarText a text; finds records like it
 * @param typing whether the last word is still being typed
 * @param words how many of the words must match: {@code all}, {@code any}, a number or a share;
 *     otherwise as the endpoint says
 * @param language the language of the words, as a BCP 47 tag; one that the endpoint has fields for
 * @param relax with fewer results than this, the least telling words are left out
 * @param facets chosen values by facet
 * @param where a filter, written like a condition in SQL
 * @param sort names of sort orders of the endpoint, most significant first
 * @param group name of a grouping of the endpoint
 * @param page number of the page, from 1
 * @param size results per page
 * @param skip instead of a page: how many results to pass over
 * @param top with {@code skip}: how many results to answer
 * @param after {@code next} of the answer before
 * @param total whether to count all results; otherwise true
 * @param fields the shown fields to answer; otherwise all of them
 * @param counts the facets to count; otherwise all that are not counted on request only
 * @param highlights whether to highlight; otherwise true
 * @param near the caller's place, {@code latitude,longitude} in degrees
 * @param trueFor a position that the answer must include
 */
public record SearchBody(
    @Nullable String q,
    @JsonProperty("similar_to") @Nullable String similarTo,
    @JsonProperty("similar_text") @Nullable String similarText,
    @Nullable Boolean typing,
    @Nullable String words,
    @Nullable String language,
    @Nullable Integer relax,
    @Nullable Map<String, List<String>> facets,
    @Nullable String where,
    @JsonFormat(with = JsonFormat.Feature.ACCEPT_SINGLE_VALUE_AS_ARRAY) @Nullable List<String> sort,
    @Nullable String group,
    @Nullable Integer page,
    @Nullable Integer size,
    @Nullable Integer skip,
    @Nullable Integer top,
    @Nullable String after,
    @Nullable Boolean total,
    @Nullable List<String> fields,
    @Nullable List<String> counts,
    @Nullable Boolean highlights,
    @Nullable String near,
    @JsonProperty("true_for") @Nullable String trueFor) {

  /**
   * Reads the parameters of a query string.
   *
   * @throws ProblemException for an unknown or malformed parameter
   */
  static SearchBody of(EndpointDefinition endpoint, Map<String, List<String>> parameters) {
    Map<String, List<String>> facets = new LinkedHashMap<>();
    Map<String, List<String>> rest = new LinkedHashMap<>();
    parameters.forEach(
        (name, values) -> (endpoint.facets().containsKey(name) ? facets : rest).put(name, values));
    Parameters read =
        Parameters.known(
            rest,
            EndpointDefinition.PARAMETERS,
            endpoint.facets().keySet(),
            "endpoint '%s'".formatted(endpoint.name()));
    return new SearchBody(
        read.text("q"),
        read.text("similar_to"),
        read.text("similar_text"),
        read.bool("typing"),
        read.text("words"),
        read.text("language"),
        read.number("relax"),
        facets,
        read.text("where"),
        read.texts("sort"),
        read.text("group"),
        read.number("page"),
        read.number("size"),
        read.number("skip"),
        read.number("top"),
        read.text("after"),
        read.bool("total"),
        read.texts("fields"),
        read.texts("counts"),
        read.bool("highlights"),
        read.text("near"),
        read.text("true_for"));
  }

  /** The first results for some words. */
  static SearchBody words(String words, int size) {
    return new SearchBody(
        words, null, null, null, null, null, null, null, null, null, null, null, size, null, null,
        null, null, null, null, null, null, null);
  }

  /** The same with other words, which are not relaxed. */
  SearchBody with(String other) {
    return new SearchBody(
        other,
        similarTo,
        similarText,
        typing,
        words,
        language,
        null,
        facets,
        where,
        sort,
        group,
        page,
        size,
        skip,
        top,
        after,
        total,
        fields,
        counts,
        highlights,
        near,
        trueFor);
  }
}
