package org.mnemex.client;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What to search for. Immutable; made with {@link #words} and narrowed step by step:
 *
 * <pre>{@code
 * SearchQuery.words("shade fern").choose("family", "Aspleniaceae").sort("newest")
 * }</pre>
 *
 * Null in place of a text or number stands for what the endpoint does by itself.
 */
public final class SearchQuery {
  private static final String FACETS = "facets";

  private final Map<String, Object> body;

  private SearchQuery(Map<String, Object> body) {
    this.body = body;
  }

  /** A search for what a person typed; an empty text finds everything. */
  public static SearchQuery words(String words) {
    return new SearchQuery(Map.of("q", words));
  }

  /** The body of the call. */
  @JsonValue
  Map<String, Object> body() {
    return body;
  }

  private SearchQuery with(String key, @Nullable Object value) {
    Map<String, Object> more = new LinkedHashMap<>(body);
    if (value == null) {
      more.remove(key);
    } else {
      more.put(key, value);
    }
    return new SearchQuery(more);
  }

  /** Also choose a value of a facet. */
  public SearchQuery choose(String facet, String value) {
    Map<Object, Object> more = new LinkedHashMap<>();
    if (body.get(FACETS) instanceof Map<?, ?> chosen) {
      more.putAll(chosen);
    }
    List<Object> values = new ArrayList<>();
    if (more.get(facet) instanceof List<?> earlier) {
      values.addAll(earlier);
    }
    values.add(value);
    more.put(facet, values);
    return with(FACETS, more);
  }

  /** Only records that meet a filter, written like a condition in SQL. */
  public SearchQuery where(@Nullable String filter) {
    return with("where", filter);
  }

  /** How many of the words must match: {@code all}, {@code any}, a number or a share. */
  public SearchQuery mustMatch(@Nullable String words) {
    return with("words", words);
  }

  /** The language of the words, as a BCP 47 tag. */
  public SearchQuery language(@Nullable String tag) {
    return with("language", tag);
  }

  /** With fewer results than this, the least telling words are left out. */
  public SearchQuery relax(@Nullable Integer results) {
    return with("relax", results);
  }

  /** In an order of the endpoint, or several, most significant first; none for its usual one. */
  public SearchQuery sort(String... names) {
    return with("sort", names.length == 0 ? null : List.of(names));
  }

  /** A page, from 1. */
  public SearchQuery page(int number, @Nullable Integer resultsPerPage) {
    return with("page", number).with("size", resultsPerPage);
  }

  /** Instead of a page: passes over some results. */
  public SearchQuery skip(int results, @Nullable Integer top) {
    return with("skip", results).with("top", top);
  }

  /** Continues after the results of an answer, see {@link SearchAnswer#next()}. */
  public SearchQuery after(@Nullable String next) {
    return with("after", next);
  }

  /** Results in groups of the endpoint. */
  public SearchQuery group(@Nullable String name) {
    return with("group", name);
  }

  /** Finds records similar to a record. */
  public SearchQuery similarTo(@Nullable String key) {
    return with("similar_to", key);
  }

  /** Answers only some of the shown fields. */
  public SearchQuery fields(@Nullable List<String> names) {
    return with("fields", names);
  }

  /** Counts only these facets, also those that are counted on request. */
  public SearchQuery counts(@Nullable List<String> facets) {
    return with("counts", facets);
  }

  /** Whether to count all results. */
  public SearchQuery total(boolean wanted) {
    return with("total", wanted);
  }

  /** Whether to highlight. */
  public SearchQuery highlights(boolean wanted) {
    return with("highlights", wanted);
  }

  /** Where the caller is, for orders and ranks by distance: {@code latitude,longitude}. */
  public SearchQuery near(@Nullable String place) {
    return with("near", place);
  }

  /** Waits until the index includes a position, see {@link MnemexClient#position}. */
  public SearchQuery trueFor(@Nullable String position) {
    return with("true_for", position);
  }
}
