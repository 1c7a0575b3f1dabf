package org.mnemex.service.search;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.SearchResult;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.run.Endpoint;
import org.mnemex.service.run.Endpoints;
import org.mnemex.service.web.ProblemException;
import org.mnemex.sync.edition.Edition;
import org.springframework.stereotype.Component;

/** Answers searches of endpoints. */
@Component
public class EndpointSearch {
  private final Endpoints endpoints;

  public EndpointSearch(Endpoints endpoints) {
    this.endpoints = endpoints;
  }

  /**
   * Answers a search.
   *
   * @param call what is asked, given the endpoint's definition
   * @throws ProblemException if there is no such endpoint, its index is still being filled, or the
   *     call makes no sense
   */
  SearchAnswer search(String name, Function<EndpointDefinition, SearchCall> call) {
    long start = System.nanoTime();
    Endpoints.Answering answering = endpoints.answering(name);
    Endpoint.Fitted endpoint = answering.endpoint();
    SearchCall asked = call.apply(endpoint.definition());
    SearchResult result = answering.edition().folder().search(request(endpoint, asked));
    return answer(endpoint, asked, result, answering.edition(), start);
  }

  private static SearchRequest request(Endpoint.Fitted endpoint, SearchCall call) {
    EndpointDefinition definition = endpoint.definition();
    Query query =
        call.words().isBlank()
            ? new Query.Everything()
            : QueryText.parse(
                call.words(), endpoint.weights(), definition.allWords(), call.typing());
    Query filter = endpoint.forced();
    if (call.where() != null && !call.where().isBlank()) {
      filter = Query.and(filter, FilterText.parse(call.where(), endpoint.schema()));
    }
    List<FacetRequest> facets = new ArrayList<>();
    for (EndpointDefinition.Facet facet : definition.facets().values()) {
      try {
        facets.add(endpoint.facet(facet, call.facets().getOrDefault(facet.name(), List.of())));
      } catch (IllegalArgumentException e) {
        throw ProblemException.badRequest(
            "bad-facet-value", "facet '" + facet.name() + "': " + e.getMessage(), null);
      }
    }
    long offset = (call.page() - 1L) * call.size();
    if (offset + call.size() > SearchRequest.DEEPEST) {
      throw ProblemException.badRequest(
          "too-deep",
          "results beyond number "
              + SearchRequest.DEEPEST
              + " cannot be asked for by page; narrow the search instead",
          null);
    }
    return new SearchRequest(
        query,
        filter,
        sort(definition, call),
        (int) offset,
        call.size(),
        facets,
        new java.util.LinkedHashSet<>(definition.show()),
        endpoint.highlights());
  }

  private static SearchRequest.@Nullable Sort sort(EndpointDefinition definition, SearchCall call) {
    EndpointDefinition.SortOrder order =
        call.sort() == null
            ? definition.sorts().values().stream().findFirst().orElse(null)
            : definition.sorts().get(call.sort());
    String field = order == null ? null : order.field();
    return order == null || field == null
        ? null
        : new SearchRequest.Sort(field, order.descending());
  }

  private static SearchAnswer answer(
      Endpoint.Fitted endpoint, SearchCall call, SearchResult result, Edition edition, long start) {
    EndpointDefinition definition = endpoint.definition();
    Map<String, SearchAnswer.Facet> facets = new LinkedHashMap<>();
    List<SearchAnswer.Chosen> chosen = new ArrayList<>();
    for (FacetResult facet : result.facets()) {
      EndpointDefinition.Facet defined = definition.facets().get(facet.name());
      if (defined == null) {
        continue;
      }
      List<SearchAnswer.FacetValue> values =
          facet.values().stream().map(value -> facetValue(defined, value)).toList();
      facets.put(facet.name(), new SearchAnswer.Facet(defined.title(), values, facet.more()));
      values.stream()
          .filter(SearchAnswer.FacetValue::chosen)
          .map(
              v ->
                  new SearchAnswer.Chosen(
                      facet.name(), v.value(), v.label(), call.without(facet.name(), v.value())))
          .forEach(chosen::add);
    }
    long total = result.total();
    int pages = call.size() == 0 ? 0 : (int) ((total + call.size() - 1) / call.size());
    var status = edition.feed().status();
    return new SearchAnswer(
        new SearchAnswer.Total(total, true),
        result.hits().stream().map(EndpointSearch::result).toList(),
        facets,
        chosen,
        call.page(),
        pages,
        new SearchAnswer.AsOf(
            result.checkpoint().values().get("position"),
            status.trueAt() == null ? null : status.trueAt().toString(),
            edition.number()),
        Math.round((System.nanoTime() - start) / 10_000.0) / 100.0);
  }

  private static SearchAnswer.FacetValue facetValue(
      EndpointDefinition.Facet facet, FacetResult.Value value) {
    String text =
        value.value() instanceof FacetRequest.Interval interval
            ? interval.text()
            : value.value().toString();
    String label = facet.labels().getOrDefault(text, text);
    return new SearchAnswer.FacetValue(text, label, value.count(), value.chosen());
  }

  private static SearchAnswer.Result result(SearchResult.Hit hit) {
    Map<String, Object> fields =
        hit.fields().entrySet().stream()
            .collect(
                Collectors.toMap(
                    Map.Entry::getKey,
                    entry -> shown(entry.getValue()),
                    (a, b) -> a,
                    LinkedHashMap::new));
    return new SearchAnswer.Result(
        hit.key(), Math.round(hit.score() * 1000) / 1000.0, fields, hit.highlights());
  }

  /** Dates as ISO 8601 text; a single value without a list around it. */
  static Object shown(List<Object> values) {
    List<Object> plain =
        values.stream()
            .map(v -> v instanceof java.time.LocalDate date ? (Object) date.toString() : v)
            .toList();
    return plain.size() == 1 ? plain.getFirst() : plain;
  }
}
