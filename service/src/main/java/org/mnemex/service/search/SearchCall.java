package org.mnemex.service.search;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.web.ProblemException;

/**
 * What a caller asks of an endpoint.
 *
 * @param words what was typed
 * @param similarTo key of a record that results are to be similar to, or null
 * @param similarText a text that results are to be similar to, or null
 * @param typing whether the last word may be unfinished
 * @param facets chosen values by facet
 * @param where an additional filter, or null
 * @param group one of the endpoint's groups, or null
 * @param page from 1
 * @param near where the caller is, {@code latitude,longitude}; null if that is not known
 * @param after the place to go on from, as an answer gave it
 * @param trueFor a position of the source that the answer must have everything up to, or null
 */
record SearchCall(
    String words,
    @Nullable String similarTo,
    @Nullable String similarText,
    boolean typing,
    Map<String, List<String>> facets,
    @Nullable String where,
    @Nullable String sort,
    @Nullable String group,
    int page,
    int size,
    @Nullable String near,
    @Nullable String after,
    @Nullable String trueFor) {

  private static final int MAX_CHOICES = 100;
  private static final int MAX_WORDS_LENGTH = 1000;
  private static final int MAX_SIMILAR_LENGTH = 100_000;

  /**
   * Reads parameters.
   *
   * @throws ProblemException for a parameter that does not exist or makes no sense
   */
  static SearchCall of(EndpointDefinition endpoint, Map<String, List<String>> parameters) {
    Map<String, List<String>> facets = new LinkedHashMap<>();
    parameters.forEach(
        (name, values) -> {
          if (endpoint.facets().containsKey(name)) {
            facets.put(name, values);
          } else if (!EndpointDefinition.PARAMETERS.contains(name)) {
            throw unknownParameter(endpoint, name);
          }
        });
    return checked(
        endpoint,
        new SearchCall(
            single(parameters, "q", ""),
            optional(parameters, "similar_to"),
            optional(parameters, "similar_text"),
            single(parameters, "typing", "false").equals("true"),
            facets,
            optional(parameters, "where"),
            optional(parameters, "sort"),
            optional(parameters, "group"),
            number("page", single(parameters, "page", "1")),
            number("size", single(parameters, "size", Integer.toString(endpoint.pageSize()))),
            optional(parameters, "near"),
            optional(parameters, "after"),
            optional(parameters, "true_for")));
  }

  private static ProblemException unknownParameter(EndpointDefinition endpoint, String name) {
    Set<String> known = new TreeSet<>(endpoint.facets().keySet());
    known.addAll(EndpointDefinition.PARAMETERS);
    return ProblemException.badRequest(
        "unknown-parameter",
        "endpoint '%s' has no parameter '%s'; it has %s"
            .formatted(endpoint.name(), name, String.join(", ", known)),
        NearestName.to(name, known));
  }

  /** Checks what parameters and JSON bodies have in common. */
  static SearchCall checked(EndpointDefinition endpoint, SearchCall call) {
    if (call.words.length() > MAX_WORDS_LENGTH) {
      throw ProblemException.badRequest(
          "query-too-long", "q has more than " + MAX_WORDS_LENGTH + " characters", null);
    }
    if (call.facets.values().stream().mapToInt(List::size).sum() > MAX_CHOICES) {
      throw ProblemException.badRequest(
          "too-many-choices", "more than " + MAX_CHOICES + " facet values are chosen", null);
    }
    for (String facet : call.facets.keySet()) {
      if (!endpoint.facets().containsKey(facet)) {
        throw ProblemException.badRequest(
            "unknown-facet",
            "endpoint '%s' has no facet '%s'".formatted(endpoint.name(), facet),
            NearestName.to(facet, endpoint.facets().keySet()));
      }
    }
    if (call.sort != null && !endpoint.sorts().containsKey(call.sort)) {
      throw ProblemException.badRequest(
          "unknown-sort",
          "endpoint '%s' has no sort '%s'; it has %s"
              .formatted(endpoint.name(), call.sort, String.join(", ", endpoint.sorts().keySet())),
          NearestName.to(call.sort, endpoint.sorts().keySet()));
    }
    if (call.group != null && !endpoint.groups().containsKey(call.group)) {
      throw ProblemException.badRequest(
          "unknown-group",
          "endpoint '%s' has no group '%s'; it has %s"
              .formatted(
                  endpoint.name(),
                  call.group,
                  endpoint.groups().isEmpty()
                      ? "none"
                      : String.join(", ", endpoint.groups().keySet())),
          NearestName.to(call.group, endpoint.groups().keySet()));
    }
    if (call.similarText != null && call.similarText.length() > MAX_SIMILAR_LENGTH) {
      throw ProblemException.badRequest(
          "text-too-long",
          "similar_text has more than %,d characters".formatted(MAX_SIMILAR_LENGTH),
          null);
    }
    if (call.page < 1) {
      throw ProblemException.badRequest("bad-page", "page counts from 1", null);
    }
    if (call.size < 0 || call.size > endpoint.pageMost()) {
      throw ProblemException.badRequest("bad-size", "size is 0 to " + endpoint.pageMost(), null);
    }
    return call;
  }

  private static String single(
      Map<String, List<String>> parameters, String name, String otherwise) {
    List<String> values = parameters.getOrDefault(name, List.of(otherwise));
    if (values.size() != 1) {
      throw ProblemException.badRequest(
          "repeated-parameter", "parameter '" + name + "' is there more than once", null);
    }
    return values.getFirst();
  }

  /** The same with other words. */
  SearchCall with(String other) {
    return new SearchCall(
        other,
        similarTo,
        similarText,
        typing,
        facets,
        where,
        sort,
        group,
        page,
        size,
        near,
        null,
        trueFor);
  }

  private static @Nullable String optional(Map<String, List<String>> parameters, String name) {
    return parameters.containsKey(name) ? single(parameters, name, "") : null;
  }

  private static int number(String name, String text) {
    try {
      return Integer.parseInt(text);
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest(
          "bad-" + name, "'" + text + "' is no number for '" + name + "'", null);
    }
  }

  /**
   * Where the caller is; null if that is not known.
   *
   * @throws ProblemException if it is no place
   */
  @Nullable Place place() {
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
    throw ProblemException.badRequest(
        "bad-near", "'" + near + "' is no place; write latitude,longitude like 51.2,-0.31", null);
  }

  /**
   * The query string of this call without one choice, from the first page.
   *
   * @param usualSize the size of a page that need not be said
   */
  String without(String facet, String value, int usualSize) {
    List<String> parts = new ArrayList<>();
    if (!words.isEmpty()) {
      parts.add("q=" + encode(words));
    }
    add(parts, "similar_to", similarTo);
    add(parts, "similar_text", similarText);
    add(parts, "where", where);
    add(parts, "near", near);
    if (size != usualSize) {
      parts.add("size=" + size);
    }
    facets.forEach(
        (name, values) ->
            values.stream()
                .filter(v -> !(name.equals(facet) && v.equals(value)))
                .forEach(v -> parts.add(encode(name) + "=" + encode(v))));
    add(parts, "sort", sort);
    add(parts, "group", group);
    return "?" + String.join("&", parts);
  }

  private static void add(List<String> parts, String name, @Nullable String value) {
    if (value != null) {
      parts.add(name + "=" + encode(value));
    }
  }

  private static String encode(String text) {
    return URLEncoder.encode(text, StandardCharsets.UTF_8);
  }
}
