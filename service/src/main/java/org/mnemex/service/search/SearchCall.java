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
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

/**
 * A call of an endpoint.
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
   * @throws ProblemException for an unknown or invalid parameter
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
            number("page", ProblemType.BAD_PAGE, single(parameters, "page", "1")),
            number(
                "size",
                ProblemType.BAD_SIZE,
                single(parameters, "size", Integer.toString(endpoint.pageSize()))),
            optional(parameters, "near"),
            optional(parameters, "after"),
            optional(parameters, "true_for")));
  }

  private static ProblemException unknownParameter(EndpointDefinition endpoint, String name) {
    Set<String> known = new TreeSet<>(endpoint.facets().keySet());
    known.addAll(EndpointDefinition.PARAMETERS);
    return new ProblemException(
        ProblemType.UNKNOWN_PARAMETER,
        "endpoint '%s' has no parameter '%s'; it has %s"
            .formatted(endpoint.name(), name, String.join(", ", known)),
        NearestName.to(name, known));
  }

  /** Checks what parameters and JSON bodies have in common. */
  static SearchCall checked(EndpointDefinition endpoint, SearchCall call) {
    if (call.words.length() > MAX_WORDS_LENGTH) {
      throw new ProblemException(
          ProblemType.QUERY_TOO_LONG, "q has more than " + MAX_WORDS_LENGTH + " characters");
    }
    if (call.facets.values().stream().mapToInt(List::size).sum() > MAX_CHOICES) {
      throw new ProblemException(
          ProblemType.TOO_MANY_CHOICES, "more than " + MAX_CHOICES + " facet values are chosen");
    }
    for (String facet : call.facets.keySet()) {
      if (!endpoint.facets().containsKey(facet)) {
        throw new ProblemException(
            ProblemType.UNKNOWN_FACET,
            "endpoint '%s' has no facet '%s'".formatted(endpoint.name(), facet),
            NearestName.to(facet, endpoint.facets().keySet()));
      }
    }
    if (call.sort != null && !endpoint.sorts().containsKey(call.sort)) {
      throw new ProblemException(
          ProblemType.UNKNOWN_SORT,
          "endpoint '%s' has no sort '%s'; it has %s"
              .formatted(endpoint.name(), call.sort, String.join(", ", endpoint.sorts().keySet())),
          NearestName.to(call.sort, endpoint.sorts().keySet()));
    }
    if (call.group != null && !endpoint.groups().containsKey(call.group)) {
      throw new ProblemException(
          ProblemType.UNKNOWN_GROUP,
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
      throw new ProblemException(
          ProblemType.TEXT_TOO_LONG,
          "similar_text has more than %,d characters".formatted(MAX_SIMILAR_LENGTH));
    }
    if (call.page < 1) {
      throw new ProblemException(ProblemType.BAD_PAGE, "page counts from 1");
    }
    if (call.size < 0 || call.size > endpoint.pageMost()) {
      throw new ProblemException(ProblemType.BAD_SIZE, "size is 0 to " + endpoint.pageMost());
    }
    return call;
  }

  private static String single(
      Map<String, List<String>> parameters, String name, String otherwise) {
    List<String> values = parameters.getOrDefault(name, List.of(otherwise));
    if (values.size() != 1) {
      throw new ProblemException(
          ProblemType.REPEATED_PARAMETER, "parameter '" + name + "' appears more than once");
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

  private static int number(String name, ProblemType otherwise, String text) {
    try {
      return Integer.parseInt(text);
    } catch (NumberFormatException e) {
      throw new ProblemException(otherwise, "'" + text + "' is not a number for '" + name + "'");
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
    throw new ProblemException(
        ProblemType.BAD_NEAR,
        "'" + near + "' is not a place; write latitude,longitude like 51.2,-0.31");
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
