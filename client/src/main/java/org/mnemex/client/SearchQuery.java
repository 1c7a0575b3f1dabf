package org.mnemex.client;

import com.fasterxml.jackson.annotation.JsonProperty;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What to search for. Made with {@link #words} and narrowed step by step:
 *
 * <pre>{@code
 * SearchQuery.words("shade fern").choose("family", "Aspleniaceae").sort("newest")
 * }</pre>
 *
 * @param q what a person typed
 * @param similarTo key of a record that results are to be similar to
 * @param facets chosen values by facet
 * @param where a filter like the predicate part of SQL
 * @param group one of the endpoint's groups
 * @param page from 1
 * @param near where the caller is, {@code latitude,longitude}
 * @param after the place to go on from, as an answer gave it
 * @param trueFor a position of the source that the answer must have everything up to
 */
public record SearchQuery(
    String q,
    @JsonProperty("similar_to") @Nullable String similarTo,
    Map<String, List<String>> facets,
    @Nullable String where,
    @Nullable String sort,
    @Nullable String group,
    @Nullable Integer page,
    @Nullable Integer size,
    @Nullable String near,
    @Nullable String after,
    @JsonProperty("true_for") @Nullable String trueFor) {

  public static SearchQuery words(String words) {
    return new SearchQuery(words, null, Map.of(), null, null, null, null, null, null, null, null);
  }

  /** Also choose a value of a facet. */
  public SearchQuery choose(String facet, String value) {
    Map<String, List<String>> more = new LinkedHashMap<>(facets);
    List<String> values = new ArrayList<>(more.getOrDefault(facet, List.of()));
    values.add(value);
    more.put(facet, values);
    return new SearchQuery(
        q, similarTo, more, where, sort, group, page, size, near, after, trueFor);
  }

  public SearchQuery where(@Nullable String filter) {
    return new SearchQuery(
        q, similarTo, facets, filter, sort, group, page, size, near, after, trueFor);
  }

  public SearchQuery sort(@Nullable String name) {
    return new SearchQuery(
        q, similarTo, facets, where, name, group, page, size, near, after, trueFor);
  }

  public SearchQuery page(int number, @Nullable Integer resultsPerPage) {
    return new SearchQuery(
        q, similarTo, facets, where, sort, group, number, resultsPerPage, near, after, trueFor);
  }

  /** Results in groups of the endpoint. */
  public SearchQuery group(@Nullable String name) {
    return new SearchQuery(
        q, similarTo, facets, where, sort, name, page, size, near, after, trueFor);
  }

  /** Finds records similar to a record. */
  public SearchQuery similarTo(@Nullable String key) {
    return new SearchQuery(q, key, facets, where, sort, group, page, size, near, after, trueFor);
  }

  /** Where the caller is, for orders and ranks by distance: {@code latitude,longitude}. */
  public SearchQuery near(@Nullable String place) {
    return new SearchQuery(
        q, similarTo, facets, where, sort, group, page, size, place, after, trueFor);
  }

  /** Continues after the results of an answer, see {@link SearchAnswer#next()}. */
  public SearchQuery after(@Nullable String next) {
    return new SearchQuery(
        q, similarTo, facets, where, sort, group, page, size, near, next, trueFor);
  }

  /** Waits until the index includes a position, see {@link MnemexClient#position}. */
  public SearchQuery trueFor(@Nullable String position) {
    return new SearchQuery(
        q, similarTo, facets, where, sort, group, page, size, near, after, position);
  }
}
