package org.mnemex.service.search;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.endpoint.Cards;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

/** Turns calls into requests to the engine. */
final class SearchRequests {
  private static final long MAX_BYTES = 256L << 20;
  private static final int MAX_TERMS = 50_000;

  private SearchRequests() {}

  /** Text fields whose words people know. */
  static List<String> readable(Fitted endpoint) {
    return endpoint.weights().keySet().stream()
        .filter(name -> endpoint.schema().field(name).type() == FieldType.TEXT)
        .toList();
  }

  /** What a search of an endpoint may cost. */
  static SearchLimits limits(EndpointDefinition definition) {
    return new SearchLimits(definition.limitMillis(), MAX_BYTES, MAX_TERMS, false);
  }

  /**
   * What ranks results besides relevance.
   *
   * @param near where the caller is, if that is known
   */
  static List<Signal> signals(Fitted endpoint, @Nullable Place near) {
    List<Signal> signals = new ArrayList<>(endpoint.lifts());
    for (EndpointDefinition.RankSignal signal : endpoint.definition().signals()) {
      switch (signal.shape()) {
        case LOGARITHM -> signals.add(new Signal.Logarithm(signal.field(), signal.weight()));
        case SATURATING ->
            signals.add(new Signal.Saturating(signal.field(), signal.weight(), signal.half()));
        case AGE ->
            signals.add(
                new Signal.Age(
                    signal.field(),
                    signal.weight(),
                    signal.half(),
                    // As exact as a cursor keeps it.
                    Instant.now().truncatedTo(ChronoUnit.MILLIS),
                    signal.curve()));
        case DISTANCE -> {
          // Without a place to measure from, nothing is near or far.
          if (near != null) {
            signals.add(
                new Signal.Distance(
                    signal.field(), signal.weight(), signal.half(), near, signal.curve()));
          }
        }
      }
    }
    return signals;
  }

  /**
   * The request of a call.
   *
   * @throws ProblemException if the call is invalid
   */
  static SearchRequest of(Endpoints.Answering answering, SearchCall call) {
    Fitted endpoint = answering.endpoint();
    EndpointDefinition definition = endpoint.definition();
    Query words =
        call.words().isBlank()
            ? new Query.Everything()
            : QueryText.parse(
                call.words(),
                new QueryText.Reading(
                    endpoint.weights(),
                    call.wanted(),
                    call.typing(),
                    definition.typos(),
                    definition.close(),
                    endpoint.weights().keySet(),
                    neighbours -> joined(endpoint, neighbours)));
    Query query = Query.and(words, similar(answering, call));
    Query filter = endpoint.forced();
    if (call.body().similarTo() != null) {
      filter = Query.and(filter, new Query.Not(new Query.Keys(List.of(call.body().similarTo()))));
    }
    if (call.body().where() != null && !call.body().where().isBlank()) {
      filter = Query.and(filter, FilterText.parse(call.body().where(), endpoint.schema()));
    }
    List<FacetRequest> facets = new ArrayList<>();
    for (EndpointDefinition.Facet facet : definition.facets().values()) {
      if (call.needs(facet)) {
        facets.add(facet(endpoint, call, facet));
      }
    }
    long offset = call.offset();
    if (offset + call.size() > SearchRequest.DEEPEST) {
      throw new ProblemException(
          ProblemType.TOO_DEEP,
          "results beyond number "
              + SearchRequest.DEEPEST
              + " cannot be asked for by page; narrow the search, or go on with 'after'");
    }
    List<SearchRequest.Sort> sorts = sorts(endpoint, call);
    return new SearchRequest(
            query,
            filter,
            null,
            (int) offset,
            call.size(),
            facets,
            shown(endpoint, call),
            call.highlights() ? highlights(endpoint, call) : List.of())
        .sortedBy(sorts)
        .groupedBy(group(definition, call))
        .rankedBy(signals(endpoint, call.place()))
        .countingUpTo(Math.max(call.total() ? definition.totalUpTo() : 0, offset + call.size()))
        .scoringAtLeast(definition.leastScore())
        .after(
            call.body().after() == null
                ? null
                : Cursors.read(
                    call.body().after(),
                    sorts.stream().map(sort -> endpoint.schema().field(sort.field())).toList()))
        .within(limits(definition));
  }

  /** How many words belong together in any of the searched fields. */
  private static int joined(Fitted endpoint, List<String> words) {
    return readable(endpoint).stream()
        .map(name -> endpoint.schema().field(name).queryAnalyser())
        .filter(Objects::nonNull)
        .mapToInt(analyser -> analyser.joined(words))
        .max()
        .orElse(0);
  }

  /** The fields that an answer needs: those to answer, and those that make the link. */
  private static Set<String> shown(Fitted endpoint, SearchCall call) {
    Set<String> shown = new LinkedHashSet<>(call.fields());
    shown.addAll(Cards.linkFields(endpoint.card()));
    return shown;
  }

  private static List<HighlightRequest> highlights(Fitted endpoint, SearchCall call) {
    return endpoint.highlights().stream()
        .filter(
            highlight ->
                call.body().fields() == null || call.body().fields().contains(highlight.field()))
        .toList();
  }

  private static SearchRequest.@Nullable Group group(
      EndpointDefinition definition, SearchCall call) {
    String name = call.body().group();
    EndpointDefinition.GroupBy by = name == null ? null : definition.groups().get(name);
    return by == null ? null : new SearchRequest.Group(by.field(), by.best());
  }

  /** A query for records similar to the caller's record or text; everything if there is neither. */
  private static Query similar(Endpoints.Answering answering, SearchCall call) {
    Query query = new Query.Everything();
    if (call.body().similarTo() != null) {
      query = similar(answering, texts(answering, call.body().similarTo()), 2);
    }
    String text = call.body().similarText();
    if (text != null && !text.isBlank()) {
      Map<String, List<String>> everywhere = new LinkedHashMap<>();
      readable(answering.endpoint()).forEach(field -> everywhere.put(field, List.of(text)));
      query = Query.and(query, similar(answering, everywhere, 1));
    }
    return query;
  }

  private static Query similar(
      Endpoints.Answering answering, Map<String, List<String>> texts, int least) {
    Fitted endpoint = answering.endpoint();
    return answering.read(
        view -> view.similar(endpoint.weights(), texts, least, limits(endpoint.definition())));
  }

  /**
   * The searched texts of a record.
   *
   * @throws ProblemException if the endpoint shows no such record, or none of its texts is stored
   */
  private static Map<String, List<String>> texts(Endpoints.Answering answering, String key) {
    Fitted endpoint = answering.endpoint();
    List<String> fields =
        readable(endpoint).stream()
            .filter(name -> endpoint.schema().field(name).isStored())
            .toList();
    if (fields.isEmpty()) {
      throw new ProblemException(
          ProblemType.NOTHING_TO_COMPARE,
          "endpoint '%s' searches no stored text; give one the use 'show' in the index"
              .formatted(endpoint.definition().name()));
    }
    SearchRequest one =
        new SearchRequest(
            new Query.Keys(List.of(key)),
            endpoint.forced(),
            null,
            0,
            1,
            List.of(),
            new LinkedHashSet<>(fields),
            List.of());
    // One that is in a shard that is nowhere is not unknown.
    List<SearchResult.Hit> hits = answering.whole().read(view -> view.search(one)).hits();
    if (hits.isEmpty()) {
      throw new ProblemException(
          ProblemType.UNKNOWN_RECORD,
          "endpoint '%s' has no record '%s'".formatted(endpoint.definition().name(), key));
    }
    Map<String, List<String>> texts = new LinkedHashMap<>();
    hits.getFirst()
        .fields()
        .forEach((name, values) -> texts.put(name, values.stream().map(Object::toString).toList()));
    return texts;
  }

  /** The facets in which a call has chosen something. */
  static List<FacetRequest> chosen(Fitted endpoint, SearchCall call) {
    return call.endpoint().facets().values().stream()
        .filter(facet -> call.facets().containsKey(facet.name()))
        .map(facet -> facet(endpoint, call, facet))
        .toList();
  }

  /**
   * A facet with what is chosen in it.
   *
   * @throws ProblemException if a value is none
   */
  static FacetRequest facet(Fitted endpoint, SearchCall call, EndpointDefinition.Facet facet) {
    try {
      return endpoint.facet(facet, call.facets().getOrDefault(facet.name(), List.of()));
    } catch (IllegalArgumentException | QueryRefusedException e) {
      throw new ProblemException(
          ProblemType.BAD_FACET_VALUE, "facet '" + facet.name() + "': " + e.getMessage());
    }
  }

  private static List<SearchRequest.Sort> sorts(Fitted endpoint, SearchCall call) {
    Map<String, List<EndpointDefinition.SortBy>> orders = endpoint.definition().sorts();
    List<EndpointDefinition.SortBy> order =
        call.sorts().isEmpty()
            ? orders.values().stream().findFirst().orElse(List.of())
            : call.sorts().stream()
                .flatMap(sort -> orders.getOrDefault(sort, List.of()).stream())
                .toList();
    Place near = call.place();
    List<SearchRequest.Sort> sorts = new ArrayList<>();
    for (EndpointDefinition.SortBy key : order) {
      boolean place = endpoint.schema().field(key.field()).type() == FieldType.PLACE;
      if (place && near == null) {
        throw new ProblemException(
            ProblemType.NO_NEAR, "sorting by distance needs 'near' with latitude,longitude");
      }
      sorts.add(
          new SearchRequest.Sort(
              key.field(),
              key.descending(),
              place ? near : null,
              key.missingFirst(),
              key.language()));
    }
    return sorts;
  }
}
