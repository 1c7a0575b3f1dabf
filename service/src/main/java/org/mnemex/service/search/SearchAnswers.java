package org.mnemex.service.search;

import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.endpoint.Cards;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.service.endpoint.ShownValues;
import org.mnemex.sync.edition.SearchedEdition;
import org.mnemex.sync.source.Position;

/** Turns the engine's results into answers. */
final class SearchAnswers {
  private SearchAnswers() {}

  /** The answer's form of a counted facet. */
  static SearchAnswer.Facet facet(
      Fitted endpoint, EndpointDefinition.Facet defined, FacetResult facet) {
    Field field = endpoint.schema().field(defined.field());
    return new SearchAnswer.Facet(
        defined.title(),
        facet.values().stream().map(value -> facetValue(endpoint, defined, value)).toList(),
        facet.more(),
        field.type() == FieldType.EXACT,
        statistics(facet.statistics()));
  }

  /** The answer to a call. */
  static SearchAnswer of(
      EndpointSearch.Asked asked,
      Curation.Found found,
      long start,
      @Nullable String didYouMean,
      @Nullable List<String> leftOut) {
    Fitted endpoint = asked.answering().endpoint();
    SearchedEdition edition = asked.answering().edition();
    SearchCall call = asked.call();
    SearchResult result = found.result();
    EndpointDefinition definition = endpoint.definition();
    Map<String, SearchAnswer.Facet> facets = new LinkedHashMap<>();
    List<SearchAnswer.Chosen> chosen = new ArrayList<>();
    for (FacetResult facet : result.facets()) {
      EndpointDefinition.Facet defined = definition.facets().get(facet.name());
      if (defined == null) {
        continue;
      }
      SearchAnswer.Facet shown = facet(endpoint, defined, facet);
      if (call.counts(defined)) {
        facets.put(facet.name(), shown);
      }
      shown.values().stream()
          .filter(SearchAnswer.FacetValue::chosen)
          .map(
              v ->
                  new SearchAnswer.Chosen(
                      facet.name(), v.value(), v.label(), call.without(facet.name(), v.value())))
          .forEach(chosen::add);
    }
    long total = result.total();
    boolean grouped = call.body().group() != null;
    long places = grouped ? result.groups() : total;
    List<Integer> missing = asked.answering().missingShards();
    int pages = call.size() == 0 ? 0 : (int) ((places + call.size() - 1) / call.size());
    return new SearchAnswer(
        null,
        call.total()
            ? new SearchAnswer.Total(total, result.totalIsExact() && missing == null)
            : null,
        grouped ? result.groups() : null,
        result.hits().stream()
            .map(hit -> result(endpoint, edition, hit, call, found.putFirst().contains(hit.key())))
            .toList(),
        facets,
        chosen,
        call.page(),
        call.total() ? pages : null,
        asOf(result, edition),
        Math.round((System.nanoTime() - start) / 10_000.0) / 100.0,
        didYouMean,
        leftOut,
        missing,
        asked.curation().told(),
        next(found),
        new SearchAnswer.Card(
            endpoint.card().title(), endpoint.card().subtitle(), endpoint.card().picture()));
  }

  /** The place after the results; none after those that a rule put first. */
  private static @Nullable String next(Curation.Found found) {
    if (found.result().hits().isEmpty()) {
      return null;
    }
    SearchResult.Hit last = found.result().hits().getLast();
    return found.putFirst().contains(last.key()) ? null : Cursors.write(last.cursor());
  }

  /** The answer to a call for records by key. */
  static SearchAnswer.Records records(
      Fitted endpoint, List<String> keys, SearchResult result, SearchedEdition edition) {
    SearchCall call = new SearchCall(endpoint.definition(), SearchBody.words("", 0));
    Map<String, SearchAnswer.Result> found = new HashMap<>();
    for (SearchResult.Hit hit : result.hits()) {
      found.put(hit.key(), result(endpoint, edition, hit, call, false));
    }
    return new SearchAnswer.Records(
        keys.stream().filter(found::containsKey).map(found::get).toList(),
        keys.stream().filter(key -> !found.containsKey(key)).toList(),
        asOf(result, edition));
  }

  private static SearchAnswer.AsOf asOf(SearchResult result, SearchedEdition edition) {
    Instant trueAt = edition.trueAt();
    return new SearchAnswer.AsOf(
        told(result.checkpoint().values().get("position")),
        trueAt == null ? null : trueAt.toString(),
        edition.number());
  }

  private static @Nullable String told(@Nullable String position) {
    return position == null ? null : Position.parse(position).told();
  }

  private static SearchAnswer.@Nullable Statistics statistics(
      FacetResult.@Nullable Summary summary) {
    return summary == null
        ? null
        : new SearchAnswer.Statistics(
            summary.count(),
            summary.least().toString(),
            summary.greatest().toString(),
            summary.sum() == null ? null : summary.sum().toString(),
            summary.mean(),
            summary.percentiles().isEmpty() ? null : percentiles(summary));
  }

  private static Map<String, String> percentiles(FacetResult.Summary summary) {
    Map<String, String> percentiles = new LinkedHashMap<>();
    summary
        .percentiles()
        .forEach(
            (share, value) ->
                percentiles.put(
                    BigDecimal.valueOf(share).stripTrailingZeros().toPlainString(),
                    value.toString()));
    return percentiles;
  }

  private static SearchAnswer.FacetValue facetValue(
      Fitted endpoint, EndpointDefinition.Facet defined, FacetResult.Value value) {
    Field field = endpoint.schema().field(defined.field());
    String text =
        value.value() instanceof Interval interval ? interval.text() : value.value().toString();
    String label = defined.labels().getOrDefault(text, defaultLabel(field, text));
    EndpointDefinition.Facet inner =
        defined.split() == null ? null : endpoint.definition().facets().get(defined.split());
    return new SearchAnswer.FacetValue(
        text,
        label,
        value.count(),
        value.chosen(),
        inner == null || value.split() == null
            ? null
            : value.split().values().stream()
                .map(within -> facetValue(endpoint, inner, within))
                .toList());
  }

  /** The last step of a path; the choice says where it is. */
  private static String defaultLabel(Field field, String text) {
    return field.type() == FieldType.PATH ? text.substring(text.lastIndexOf('/') + 1) : text;
  }

  private static SearchAnswer.Result result(
      Fitted endpoint,
      SearchedEdition edition,
      SearchResult.Hit hit,
      SearchCall call,
      boolean putFirst) {
    Place near = call.place();
    Map<String, Object> fields =
        hit.fields().entrySet().stream()
            .collect(
                Collectors.toMap(
                    Map.Entry::getKey,
                    entry -> ShownValues.shown(entry.getValue()),
                    (a, b) -> a,
                    LinkedHashMap::new));
    return new SearchAnswer.Result(
        hit.key(),
        Math.round(hit.score() * 1000) / 1000.0,
        asked(fields, call),
        hit.highlights(),
        near == null ? null : distances(hit, near),
        hit.rows().isEmpty() ? null : rows(hit),
        Cards.link(
            endpoint.card(),
            hit.key(),
            field -> {
              Object value = fields.get(field);
              return value == null || value instanceof List<?> ? null : value.toString();
            }),
        edition.isSetAside(hit.key()) ? true : null,
        putFirst ? true : null,
        hit.group() == null ? null : group(endpoint, edition, hit.group(), call));
  }

  /** Without fields that only the link needed. */
  private static Map<String, Object> asked(Map<String, Object> fields, SearchCall call) {
    if (call.body().fields() == null) {
      return fields;
    }
    Map<String, Object> asked = new LinkedHashMap<>(fields);
    asked.keySet().retainAll(call.fields());
    return asked;
  }

  private static SearchAnswer.Group group(
      Fitted endpoint, SearchedEdition edition, SearchResult.Group group, SearchCall call) {
    return new SearchAnswer.Group(
        group.value() == null ? null : group.value().toString(),
        group.total(),
        group.others().stream().map(hit -> result(endpoint, edition, hit, call, false)).toList());
  }

  /** The rows of shown groups that match. */
  private static Map<String, List<Object>> rows(SearchResult.Hit hit) {
    Map<String, List<Object>> matched = new LinkedHashMap<>();
    hit.rows()
        .forEach(
            (group, numbers) -> {
              List<Object> all = hit.fields().getOrDefault(group, List.of());
              matched.put(
                  group,
                  numbers.stream().map(number -> ShownValues.plain(all.get(number))).toList());
            });
    return matched;
  }

  /** Distances of shown places from the caller, in whole metres; null if none is shown. */
  private static @Nullable Map<String, Long> distances(SearchResult.Hit hit, Place near) {
    Map<String, Long> distances = new LinkedHashMap<>();
    hit.fields()
        .forEach(
            (name, values) ->
                values.stream()
                    .filter(Place.class::isInstance)
                    .map(Place.class::cast)
                    .mapToDouble(place -> near.metresTo(place.latitude(), place.longitude()))
                    .min()
                    .ifPresent(metres -> distances.put(name, Math.round(metres))));
    return distances.isEmpty() ? null : distances;
  }
}
