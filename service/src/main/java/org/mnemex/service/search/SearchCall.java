package org.mnemex.service.search;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.WantedWords;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

/**
 * A checked call of an endpoint.
 *
 * @param endpoint what is called
 * @param body what is asked
 */
record SearchCall(EndpointDefinition endpoint, SearchBody body) {
  private static final int MAX_CHOICES = 100;
  private static final int MAX_WORDS_LENGTH = 1000;
  private static final int MAX_SIMILAR_LENGTH = 100_000;

  /**
   * Checks a call.
   *
   * @throws ProblemException if anything in it is invalid for the endpoint
   */
  SearchCall {
    String name = "endpoint '%s'".formatted(endpoint.name());
    if (body.q() != null && body.q().length() > MAX_WORDS_LENGTH) {
      throw new ProblemException(
          ProblemType.QUERY_TOO_LONG, "q has more than " + MAX_WORDS_LENGTH + " characters");
    }
    if (body.similarText() != null && body.similarText().length() > MAX_SIMILAR_LENGTH) {
      throw new ProblemException(
          ProblemType.TEXT_TOO_LONG,
          "similar_text has more than %,d characters".formatted(MAX_SIMILAR_LENGTH));
    }
    Map<String, List<String>> chosen = body.facets() == null ? Map.of() : body.facets();
    chosen.forEach((facet, values) -> complete("facet '" + facet + "'", values));
    if (chosen.values().stream().mapToInt(List::size).sum() > MAX_CHOICES) {
      throw new ProblemException(
          ProblemType.TOO_MANY_CHOICES, "more than " + MAX_CHOICES + " facet values are chosen");
    }
    Collection<String> facets = endpoint.facets().keySet();
    chosen
        .keySet()
        .forEach(facet -> among(ProblemType.UNKNOWN_FACET, name, "facet", facet, facets));
    all("counts", body.counts())
        .forEach(facet -> among(ProblemType.UNKNOWN_FACET, name, "facet", facet, facets));
    all("fields", body.fields())
        .forEach(
            field -> among(ProblemType.UNKNOWN_FIELD, name, "shown field", field, endpoint.show()));
    List<String> sorts = all("sort", body.sort());
    for (String sort : sorts) {
      among(ProblemType.UNKNOWN_SORT, name, "sort", sort, endpoint.sorts().keySet());
      if (!sort.equals(sorts.getLast())
          && endpoint.sorts().getOrDefault(sort, List.of()).isEmpty()) {
        throw new ProblemException(
            ProblemType.UNKNOWN_SORT,
            "sort '%s' is by relevance, after which no other would decide; put it last"
                .formatted(sort));
      }
    }
    if (body.group() != null) {
      among(ProblemType.UNKNOWN_GROUP, name, "group", body.group(), endpoint.groups().keySet());
    }
    if (body.words() != null && WantedWords.parse(body.words()) == null) {
      throw new ProblemException(
          ProblemType.BAD_VALUE,
          "words: '%s' is none of %s".formatted(body.words(), WantedWords.FORMS));
    }
    checkPlace(endpoint, body);
    if (body.relax() != null && (body.relax() < 1 || body.relax() > endpoint.pageMost())) {
      throw new ProblemException(
          ProblemType.BAD_VALUE, "relax is a number of results from 1 to " + endpoint.pageMost());
    }
  }

  private static void checkPlace(EndpointDefinition endpoint, SearchBody body) {
    boolean skips = body.skip() != null || body.top() != null;
    if (skips && (body.page() != null || body.size() != null)
        || body.after() != null && body.skip() != null) {
      throw new ProblemException(
          ProblemType.BAD_PAGE, "ask by page and size, by skip and top, or by after");
    }
    if (body.page() != null && body.page() < 1) {
      throw new ProblemException(ProblemType.BAD_PAGE, "page counts from 1");
    }
    if (body.skip() != null && body.skip() < 0) {
      throw new ProblemException(ProblemType.BAD_PAGE, "skip counts from 0");
    }
    for (String name : List.of("size", "top")) {
      Integer size = name.equals("top") ? body.top() : body.size();
      if (size != null && (size < 0 || size > endpoint.pageMost())) {
        throw new ProblemException(
            ProblemType.BAD_SIZE, "%s is 0 to %d".formatted(name, endpoint.pageMost()));
      }
    }
  }

  /** A list without gaps; empty if there is none. */
  private static List<String> all(String name, @Nullable List<String> list) {
    if (list == null) {
      return List.of();
    }
    complete("'" + name + "'", list);
    if (list.size() > MAX_CHOICES) {
      throw new ProblemException(
          ProblemType.TOO_MANY_CHOICES, "'%s' has more than %d names".formatted(name, MAX_CHOICES));
    }
    return list;
  }

  private static void complete(String what, @Nullable List<String> list) {
    if (list == null || list.stream().anyMatch(Objects::isNull)) {
      throw new ProblemException(ProblemType.BAD_BODY, what + " takes a list of texts");
    }
  }

  private static void among(
      ProblemType type, String whose, String what, String name, Collection<String> known) {
    if (!known.contains(name)) {
      throw new ProblemException(
          type,
          "%s has no %s '%s'; it has %s"
              .formatted(whose, what, name, known.isEmpty() ? "none" : String.join(", ", known)),
          NearestName.to(name, known));
    }
  }

  /** What was typed. */
  String words() {
    return body.q() == null ? "" : body.q();
  }

  /** Whether the last word may be unfinished. */
  boolean typing() {
    return Boolean.TRUE.equals(body.typing());
  }

  /** How many of the words must match. */
  Wanted wanted() {
    Wanted own = body.words() == null ? null : WantedWords.parse(body.words());
    return own == null ? endpoint.words() : own;
  }

  /** Chosen values by facet. */
  Map<String, List<String>> facets() {
    return body.facets() == null ? Map.of() : body.facets();
  }

  /** Whether a facet is to be counted, not only to narrow the results. */
  boolean counts(EndpointDefinition.Facet facet) {
    return body.counts() == null
        ? !facet.onRequest() || facets().containsKey(facet.name())
        : body.counts().contains(facet.name());
  }

  /** Whether a facet has a part in the search. */
  boolean needs(EndpointDefinition.Facet facet) {
    return counts(facet) || facets().containsKey(facet.name());
  }

  /** The fields to answer. */
  List<String> fields() {
    return body.fields() == null ? endpoint.show() : body.fields();
  }

  /** Whether to count all results. */
  boolean total() {
    return !Boolean.FALSE.equals(body.total());
  }

  /** Whether to highlight. */
  boolean highlights() {
    return !Boolean.FALSE.equals(body.highlights());
  }

  /** How many results to answer. */
  int size() {
    Integer size = body.top() == null ? body.size() : body.top();
    return size == null ? endpoint.pageSize() : size;
  }

  /** How many results to pass over. */
  long offset() {
    if (body.after() != null) {
      return 0;
    }
    return body.skip() == null ? (page() - 1L) * size() : body.skip();
  }

  /** The number of the page, from 1. */
  int page() {
    if (body.skip() != null) {
      return size() == 0 ? 1 : body.skip() / size() + 1;
    }
    return body.page() == null ? 1 : body.page();
  }

  /** Whether this asks for the first results. */
  boolean isFirst() {
    return offset() == 0 && body.after() == null;
  }

  /** The sorts that are asked for, most significant first. */
  List<String> sorts() {
    return body.sort() == null ? List.of() : body.sort();
  }

  /** The same with other words. */
  SearchCall with(String other) {
    return new SearchCall(endpoint, body.with(other));
  }

  /**
   * Where the caller is; null if that is not known.
   *
   * @throws ProblemException if it is no place
   */
  @Nullable Place place() {
    String near = body.near();
    if (near == null) {
      return null;
    }
    try {
      String[] parts = near.split(",", -1);
      if (parts.length == 2) {
        return new Place(
            Double.parseDouble(parts[0].strip()), Double.parseDouble(parts[1].strip()));
      }
    } catch (IllegalArgumentException e) {
      // Said below.
    }
    throw new ProblemException(
        ProblemType.BAD_NEAR,
        "'" + near + "' is not a place; write latitude,longitude like 51.2,-0.31");
  }

  /** The query string of this call without one choice, from the first result. */
  String without(String facet, String value) {
    Map<String, List<String>> parameters = parameters();
    List<String> left =
        parameters.getOrDefault(facet, List.of()).stream().filter(v -> !v.equals(value)).toList();
    parameters.put(facet, left);
    return queryString(parameters);
  }

  /** The query string of this call for other results, given by parameters. */
  String at(Map<String, Object> place) {
    Map<String, List<String>> parameters = parameters();
    place.forEach((name, value) -> parameters.put(name, List.of(value.toString())));
    return queryString(parameters);
  }

  /** What this call asks, without its place in the results. */
  private Map<String, List<String>> parameters() {
    Map<String, List<String>> parameters = new LinkedHashMap<>();
    put(parameters, "q", words().isEmpty() ? null : words());
    put(parameters, "similar_to", body.similarTo());
    put(parameters, "similar_text", body.similarText());
    put(parameters, "words", body.words());
    put(parameters, "language", body.language());
    put(parameters, "relax", body.relax());
    put(parameters, "where", body.where());
    put(parameters, "near", body.near());
    put(parameters, "size", body.size());
    put(parameters, "top", body.top());
    parameters.putAll(facets());
    put(parameters, "group", body.group());
    put(parameters, "total", body.total());
    put(parameters, "highlights", body.highlights());
    putAll(parameters, "sort", body.sort());
    putAll(parameters, "fields", body.fields());
    putAll(parameters, "counts", body.counts());
    return parameters;
  }

  private static void put(
      Map<String, List<String>> parameters, String name, @Nullable Object value) {
    if (value != null) {
      parameters.put(name, List.of(value.toString()));
    }
  }

  private static void putAll(
      Map<String, List<String>> parameters, String name, @Nullable List<String> values) {
    if (values != null) {
      parameters.put(name, values.isEmpty() ? List.of("") : values);
    }
  }

  private static String queryString(Map<String, List<String>> parameters) {
    List<String> parts = new ArrayList<>();
    parameters.forEach(
        (name, values) -> values.forEach(v -> parts.add(encode(name) + "=" + encode(v))));
    return "?" + String.join("&", parts);
  }

  private static String encode(String text) {
    return URLEncoder.encode(text, StandardCharsets.UTF_8);
  }
}
