package org.mnemex.service.definition;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.EndpointDefinition.Facet;

/** Reads the facets of an endpoint. */
final class FacetReader {
  /** Number of values shown by default. */
  static final int LIMIT = 10;

  private static final int MAX_LIMIT = 1000;

  /** The kinds by the keys that ask for them; a facet with none of these keys is by value. */
  private static final List<Kind> KINDS =
      List.of(
          new Kind(List.of("ranges"), RangeKind::read),
          new Kind(List.of("every"), BucketKind::read),
          new Kind(List.of("cells"), SquareKind::read),
          new Kind(List.of("statistics", "percentiles"), StatisticsKind::read));

  private record Kind(List<String> keys, Function<YamlMap, FacetKind> reader) {}

  /** Keys that only some kinds have, by the kind that has them. */
  private static final Map<String, String> OWN =
      Map.of(
          "order", "values",
          "choose", "values",
          "rows", "values",
          "split", "values",
          "empty", "buckets",
          "zone", "buckets");

  private FacetReader() {}

  /** The facets of an endpoint, and those of fields that callers may count without one. */
  static Map<String, Facet> read(YamlMap map) {
    YamlMap all = map.mapOrNull("facets");
    List<String> countable = map.texts("countable");
    Map<String, Facet> facets = new LinkedHashMap<>();
    if (all != null) {
      all.each(name -> facets.put(name, facet(all, name)));
      facets.values().forEach(facet -> checkSplit(all, facet, facets));
    }
    for (String field : countable) {
      if (isParameter(field)) {
        throw map.problem(
            "countable",
            "'%s' is a parameter of every search; give the field a facet of another name"
                .formatted(field),
            null);
      }
      if (facets.containsKey(field)) {
        throw map.problem("countable", "there is a facet '%s' already".formatted(field), null);
      }
      facets.put(
          field, new Facet(field, field, field, ValueKind.usual(), null, null, Map.of(), true));
    }
    return facets;
  }

  private static boolean isParameter(String name) {
    return EndpointDefinition.PARAMETERS.contains(name)
        || EndpointDefinition.OTHER_PARAMETERS.contains(name);
  }

  /** Number of values shown. */
  static int limit(YamlMap facet) {
    return facet.integerOr("limit", LIMIT, 1, MAX_LIMIT);
  }

  private static Facet facet(YamlMap all, String name) {
    if (isParameter(name)) {
      throw all.problem(
          name, "'" + name + "' is a parameter of every search; choose another name", null);
    }
    YamlMap one = all.map(name);
    String field = one.text("field");
    String title = one.textOr("title", null);
    String none = one.textOr("none", null);
    String split = one.textOr("split", null);
    Map<String, String> labels = new LinkedHashMap<>();
    YamlMap labelMap = one.mapOrNull("labels");
    if (labelMap != null) {
      labelMap.allKeys().forEach(value -> labels.put(value, labelMap.text(value)));
    }
    FacetKind kind = kind(all, name, one);
    one.has("limit");
    OWN.forEach(
        (key, whose) -> {
          if (one.has(key) && !kind.kind().equals(whose)) {
            throw one.problem(
                key,
                whose.equals("values")
                    ? "only a facet by value has this"
                    : "only a facet with 'every' has this",
                null);
          }
        });
    if (none != null && !kind.hasCounts()) {
      throw one.problem("none", "statistics have no value to choose", null);
    }
    if (split != null && none != null) {
      throw one.problem("split", "only a facet without 'none' can be split", null);
    }
    boolean onRequest = one.booleanOr("on_request", false);
    one.finish();
    return new Facet(
        name,
        field,
        title == null ? FieldTitle.of(name) : title,
        kind,
        none,
        split,
        labels,
        onRequest);
  }

  private static FacetKind kind(YamlMap all, String name, YamlMap one) {
    List<Kind> asked =
        KINDS.stream().filter(kind -> kind.keys().stream().anyMatch(one::has)).toList();
    if (asked.size() > 1) {
      throw all.problem(
          name,
          "a facet has only one of %s"
              .formatted(
                  asked.stream()
                      .map(kind -> "'" + kind.keys().getFirst() + "'")
                      .collect(Collectors.joining(", "))),
          null);
    }
    return asked.isEmpty() ? ValueKind.read(one) : asked.getFirst().reader().apply(one);
  }

  private static void checkSplit(YamlMap all, Facet facet, Map<String, Facet> facets) {
    String name = facet.split();
    if (name == null) {
      return;
    }
    Facet inner = facets.get(name);
    if (inner == null) {
      throw all.problem(
          facet.name(),
          "'split' names a facet of this endpoint; there is no '%s'".formatted(name),
          NearestName.to(name, facets.keySet()));
    }
    if (inner.split() != null || !inner.kind().hasCounts()) {
      throw all.problem(
          facet.name(), "a facet is split by one that is not split and has counts", null);
    }
  }
}
