package org.mnemex.service.search;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.Explanation;
import org.mnemex.engine.QueryRefusedException;
import org.mnemex.engine.SearchLimits;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.SearchResult;
import org.mnemex.engine.SearchTimeoutException;
import org.mnemex.engine.Signal;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.NearestName;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggestion;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.run.Endpoint;
import org.mnemex.service.run.Endpoints;
import org.mnemex.service.web.ProblemException;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.source.Position;
import org.springframework.stereotype.Component;

/** Answers searches of endpoints. */
@Component
public class EndpointSearch {
  private static final int MAX_TYPED = 200;
  private static final int MAX_SUGGESTIONS = 50;
  private static final long MAX_BYTES = 256L << 20;
  private static final int MAX_TERMS = 50_000;

  private final Endpoints endpoints;
  private final RecordedQueries recorded;
  private final SearchSlots slots;

  EndpointSearch(Endpoints endpoints, RecordedQueries recorded, SearchSlots slots) {
    this.endpoints = endpoints;
    this.recorded = recorded;
    this.slots = slots;
  }

  /**
   * Answers a search.
   *
   * @param call what is asked, given the endpoint's definition
   * @throws ProblemException if there is no such endpoint, its index is still being filled, or the
   *     call makes no sense
   */
  SearchAnswer search(String name, Function<EndpointDefinition, SearchCall> call) {
    Endpoints.Answering answering = endpoints.answering(name);
    SearchCall asked = call.apply(answering.endpoint().definition());
    SearchAnswer answer = search(answering, asked);
    recorded.note(name, asked);
    return answer;
  }

  /** Answers a search with a certain edition. */
  SearchAnswer search(Endpoints.Answering answering, SearchCall asked) {
    if (asked.trueFor() != null) {
      endpoints.awaitPosition(answering, asked.trueFor());
    }
    return slots.run(
        answering.endpoint().definition().limitMillis(), () -> compute(answering, asked));
  }

  private SearchAnswer compute(Endpoints.Answering answering, SearchCall asked) {
    long start = System.nanoTime();
    Endpoint.Fitted endpoint = answering.endpoint();
    SearchRequest request = request(answering, asked);
    SearchResult result =
        answering.edition().read(() -> answering.edition().folder().search(request));
    String meant =
        result.total() == 0 && !asked.words().isBlank()
            ? meant(answering, asked.words(), request.limits(), start)
            : null;
    return answer(endpoint, asked, result, answering.edition(), start, meant);
  }

  /** What was probably meant, if that can be told in what is left of the time. */
  private static @Nullable String meant(
      Endpoints.Answering answering, String words, SearchLimits limits, long start) {
    Endpoint.Fitted endpoint = answering.endpoint();
    long left = limits.millis() - (System.nanoTime() - start) / 1_000_000;
    SuggestRequest request =
        new SuggestRequest(
            words,
            readable(endpoint),
            1,
            endpoint.forced(),
            List.of(),
            new SearchLimits(Math.max(0, left), limits.bytes(), limits.terms(), false));
    try {
      return answering.edition().read(() -> answering.edition().folder().correct(request));
    } catch (SearchTimeoutException | QueryRefusedException e) {
      // There is an answer without it.
      return null;
    }
  }

  /** Text fields whose words people know. */
  private static List<String> readable(Endpoint.Fitted endpoint) {
    return endpoint.weights().keySet().stream()
        .filter(name -> endpoint.schema().field(name).type() == FieldType.TEXT)
        .toList();
  }

  /**
   * The parts of the score of a record, or why it is no result.
   *
   * @throws ProblemException if there is no record of that key
   */
  Explanation explain(String name, Function<EndpointDefinition, SearchCall> call, String key) {
    Endpoints.Answering answering = endpoints.answering(name);
    Explanation explanation =
        explain(answering, call.apply(answering.endpoint().definition()), key);
    if (explanation == null) {
      throw ProblemException.notFound(
          "unknown-record", "endpoint '" + name + "' has no record '" + key + "'", null);
    }
    return explanation;
  }

  /** The same of a certain edition; null if it has no such record. */
  @Nullable Explanation explain(Endpoints.Answering answering, SearchCall call, String key) {
    SearchRequest request = request(answering, call);
    Explanation explanation = explain(answering, request, key);
    // What the endpoint may never show is not there for whoever asks it.
    return explanation == null || isHidden(answering, key) ? null : explanation;
  }

  private static @Nullable Explanation explain(
      Endpoints.Answering answering, SearchRequest request, String key) {
    return answering.edition().read(() -> answering.edition().folder().explain(request, key));
  }

  private static boolean isHidden(Endpoints.Answering answering, String key) {
    Query forced = answering.endpoint().forced();
    if (forced instanceof Query.Everything) {
      return false;
    }
    SearchRequest only =
        new SearchRequest(
            new Query.Everything(), forced, null, 0, 0, List.of(), Set.of(), List.of());
    Explanation seen = explain(answering, only, key);
    return seen == null || !seen.matched();
  }

  /** Completions from the index's fields with the use {@code suggest}. */
  List<Suggestion> suggest(String name, String text, int size) {
    if (text.length() > MAX_TYPED || size < 1 || size > MAX_SUGGESTIONS) {
      throw ProblemException.badRequest(
          "bad-suggest",
          "q has at most %d characters, size is 1 to %d".formatted(MAX_TYPED, MAX_SUGGESTIONS),
          null);
    }
    Endpoints.Answering answering = endpoints.answering(name);
    Endpoint.Fitted endpoint = answering.endpoint();
    List<String> fields =
        endpoint.schema().fields().stream()
            .filter(
                field ->
                    field.type() == FieldType.TEXT
                        && field.hasTerms()
                        && field.uses().contains(Use.SUGGEST)
                        && endpoint.definition().show().contains(field.name()))
            .map(Field::name)
            .toList();
    if (text.isBlank() || fields.isEmpty()) {
      return List.of();
    }
    SuggestRequest request =
        new SuggestRequest(
            text,
            fields,
            size,
            endpoint.forced(),
            signals(endpoint, null),
            limits(endpoint.definition()));
    return answering.edition().read(() -> answering.edition().folder().suggest(request));
  }

  private static SearchLimits limits(EndpointDefinition definition) {
    return new SearchLimits(definition.limitMillis(), MAX_BYTES, MAX_TERMS, false);
  }

  private static List<Signal> signals(Endpoint.Fitted endpoint, @Nullable Place near) {
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

  private static SearchRequest request(Endpoints.Answering answering, SearchCall call) {
    Endpoint.Fitted endpoint = answering.endpoint();
    EndpointDefinition definition = endpoint.definition();
    Query words =
        call.words().isBlank()
            ? new Query.Everything()
            : QueryText.parse(
                call.words(),
                new QueryText.Reading(
                    endpoint.weights(),
                    definition.words(),
                    call.typing(),
                    definition.typos(),
                    definition.close(),
                    endpoint.weights().keySet()));
    Query query = Query.and(words, similar(answering, call));
    Query filter = endpoint.forced();
    if (call.similarTo() != null) {
      filter = Query.and(filter, new Query.Not(new Query.Keys(List.of(call.similarTo()))));
    }
    if (call.where() != null && !call.where().isBlank()) {
      filter = Query.and(filter, FilterText.parse(call.where(), endpoint.schema()));
    }
    List<FacetRequest> facets = new ArrayList<>();
    for (EndpointDefinition.Facet facet : definition.facets().values()) {
      facets.add(facet(endpoint, call, facet));
    }
    long offset = (call.page() - 1L) * call.size();
    if (offset + call.size() > SearchRequest.DEEPEST) {
      throw ProblemException.badRequest(
          "too-deep",
          "results beyond number "
              + SearchRequest.DEEPEST
              + " cannot be asked for by page; narrow the search, or go on with 'after'",
          null);
    }
    List<SearchRequest.Sort> sorts = sorts(endpoint, call);
    return new SearchRequest(
            query,
            filter,
            null,
            call.after() == null ? (int) offset : 0,
            call.size(),
            facets,
            new LinkedHashSet<>(definition.show()),
            endpoint.highlights())
        .sortedBy(sorts)
        .groupedBy(group(definition, call))
        .rankedBy(signals(endpoint, call.place()))
        .countingUpTo(Math.max(definition.totalUpTo(), offset + call.size()))
        .scoringAtLeast(definition.leastScore())
        .after(
            call.after() == null
                ? null
                : Cursors.read(
                    call.after(),
                    sorts.stream().map(sort -> endpoint.schema().field(sort.field())).toList()))
        .within(limits(definition));
  }

  private static SearchRequest.@Nullable Group group(
      EndpointDefinition definition, SearchCall call) {
    EndpointDefinition.GroupBy by =
        call.group() == null ? null : definition.groups().get(call.group());
    return by == null ? null : new SearchRequest.Group(by.field(), by.best());
  }

  /** What is similar to the record or the text that the caller names; everything if to neither. */
  private static Query similar(Endpoints.Answering answering, SearchCall call) {
    Query query = new Query.Everything();
    if (call.similarTo() != null) {
      query = similar(answering, texts(answering, call.similarTo()), 2);
    }
    String text = call.similarText();
    if (text != null && !text.isBlank()) {
      Map<String, List<String>> everywhere = new LinkedHashMap<>();
      readable(answering.endpoint()).forEach(field -> everywhere.put(field, List.of(text)));
      query = Query.and(query, similar(answering, everywhere, 1));
    }
    return query;
  }

  private static Query similar(
      Endpoints.Answering answering, Map<String, List<String>> texts, int least) {
    Endpoint.Fitted endpoint = answering.endpoint();
    return answering
        .edition()
        .read(
            () ->
                answering
                    .edition()
                    .folder()
                    .similar(endpoint.weights(), texts, least, limits(endpoint.definition())));
  }

  /**
   * The searched texts of a record.
   *
   * @throws ProblemException if the endpoint shows no such record, or none of its texts is stored
   */
  private static Map<String, List<String>> texts(Endpoints.Answering answering, String key) {
    Endpoint.Fitted endpoint = answering.endpoint();
    List<String> fields =
        readable(endpoint).stream()
            .filter(name -> endpoint.schema().field(name).isStored())
            .toList();
    if (fields.isEmpty()) {
      throw ProblemException.badRequest(
          "nothing-to-compare",
          "endpoint '%s' searches no text that is stored; give one the use 'show' in the index"
              .formatted(endpoint.definition().name()),
          null);
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
    List<SearchResult.Hit> hits =
        answering.edition().read(() -> answering.edition().folder().search(one)).hits();
    if (hits.isEmpty()) {
      throw ProblemException.notFound(
          "unknown-record",
          "endpoint '%s' has no record '%s'".formatted(endpoint.definition().name(), key),
          null);
    }
    Map<String, List<String>> texts = new LinkedHashMap<>();
    hits.getFirst()
        .fields()
        .forEach((name, values) -> texts.put(name, values.stream().map(Object::toString).toList()));
    return texts;
  }

  private static FacetRequest facet(
      Endpoint.Fitted endpoint, SearchCall call, EndpointDefinition.Facet facet) {
    try {
      return endpoint.facet(facet, call.facets().getOrDefault(facet.name(), List.of()));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest(
          "bad-facet-value", "facet '" + facet.name() + "': " + e.getMessage(), null);
    }
  }

  /**
   * The values of a facet that have a word with a certain beginning, counted over the results of a
   * search.
   *
   * @throws ProblemException if there is no such facet, or its values are no texts
   */
  SearchAnswer.Facet facet(
      String name, Function<EndpointDefinition, SearchCall> call, String facet, String beginning) {
    if (beginning.length() > MAX_TYPED) {
      throw ProblemException.badRequest(
          "bad-begins", "'begins' has at most " + MAX_TYPED + " characters", null);
    }
    Endpoints.Answering answering = endpoints.answering(name);
    Endpoint.Fitted endpoint = answering.endpoint();
    EndpointDefinition.Facet defined = endpoint.definition().facets().get(facet);
    if (defined == null) {
      throw ProblemException.notFound(
          "unknown-facet",
          "endpoint '%s' has no facet '%s'".formatted(name, facet),
          NearestName.to(facet, endpoint.definition().facets().keySet()));
    }
    SearchCall asked = call.apply(endpoint.definition());
    // What is chosen in the other facets narrows; nothing is shown but this one.
    List<FacetRequest> facets = new ArrayList<>();
    for (EndpointDefinition.Facet other : endpoint.definition().facets().values()) {
      if (!other.name().equals(facet) && asked.facets().containsKey(other.name())) {
        facets.add(facet(endpoint, asked, other));
      }
    }
    try {
      facets.add(endpoint.facet(defined, asked.facets().getOrDefault(facet, List.of()), beginning));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest("bad-facet", String.valueOf(e.getMessage()), null);
    }
    SearchRequest request = request(answering, asked).onlyFacets(facets);
    FacetResult result =
        answering
            .edition()
            .read(() -> answering.edition().folder().search(request))
            .facets()
            .getLast();
    return shown(endpoint, defined, result);
  }

  private static SearchAnswer.Facet shown(
      Endpoint.Fitted endpoint, EndpointDefinition.Facet defined, FacetResult facet) {
    Field field = endpoint.schema().field(defined.field());
    return new SearchAnswer.Facet(
        defined.title(),
        facet.values().stream().map(value -> facetValue(endpoint, defined, value)).toList(),
        facet.more(),
        field.type() == FieldType.EXACT,
        statistics(facet.statistics()));
  }

  private static List<SearchRequest.Sort> sorts(Endpoint.Fitted endpoint, SearchCall call) {
    Map<String, List<EndpointDefinition.SortBy>> orders = endpoint.definition().sorts();
    List<EndpointDefinition.SortBy> order =
        call.sort() == null
            ? orders.values().stream().findFirst().orElse(List.of())
            : orders.getOrDefault(call.sort(), List.of());
    Place near = call.place();
    List<SearchRequest.Sort> sorts = new ArrayList<>();
    for (EndpointDefinition.SortBy key : order) {
      boolean place = endpoint.schema().field(key.field()).type() == FieldType.PLACE;
      if (place && near == null) {
        throw ProblemException.badRequest(
            "no-near", "sorting by distance needs 'near' with latitude,longitude", null);
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

  private static SearchAnswer answer(
      Endpoint.Fitted endpoint,
      SearchCall call,
      SearchResult result,
      Edition edition,
      long start,
      @Nullable String didYouMean) {
    EndpointDefinition definition = endpoint.definition();
    Map<String, SearchAnswer.Facet> facets = new LinkedHashMap<>();
    List<SearchAnswer.Chosen> chosen = new ArrayList<>();
    for (FacetResult facet : result.facets()) {
      EndpointDefinition.Facet defined = definition.facets().get(facet.name());
      if (defined == null) {
        continue;
      }
      SearchAnswer.Facet shown = shown(endpoint, defined, facet);
      facets.put(facet.name(), shown);
      shown.values().stream()
          .filter(SearchAnswer.FacetValue::chosen)
          .map(
              v ->
                  new SearchAnswer.Chosen(
                      facet.name(),
                      v.value(),
                      v.label(),
                      call.without(facet.name(), v.value(), definition.pageSize())))
          .forEach(chosen::add);
    }
    long total = result.total();
    long places = call.group() == null ? total : result.groups();
    int pages = call.size() == 0 ? 0 : (int) ((places + call.size() - 1) / call.size());
    var feed = edition.feed();
    return new SearchAnswer(
        new SearchAnswer.Total(total, result.totalIsExact()),
        call.group() == null ? null : result.groups(),
        result.hits().stream().map(hit -> result(edition, hit, call.place())).toList(),
        facets,
        chosen,
        call.page(),
        pages,
        new SearchAnswer.AsOf(
            told(result.checkpoint().values().get("position")),
            feed.trueAt() == null ? null : feed.trueAt().toString(),
            edition.number()),
        Math.round((System.nanoTime() - start) / 10_000.0) / 100.0,
        didYouMean,
        result.hits().isEmpty() ? null : Cursors.write(result.hits().getLast().cursor()));
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
      Endpoint.Fitted endpoint, EndpointDefinition.Facet facet, FacetResult.Value value) {
    Field field = endpoint.schema().field(facet.field());
    String text =
        value.value() instanceof FacetRequest.Interval interval
            ? interval.text()
            : value.value().toString();
    String label = facet.labels().getOrDefault(text, defaultLabel(field, text));
    EndpointDefinition.Facet inner =
        facet.split() == null ? null : endpoint.definition().facets().get(facet.split());
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

  /** Of a path the last step, as what it lies in is known from what is chosen. */
  private static String defaultLabel(Field field, String text) {
    return field.type() == FieldType.PATH ? text.substring(text.lastIndexOf('/') + 1) : text;
  }

  private static SearchAnswer.Result result(
      Edition edition, SearchResult.Hit hit, @Nullable Place near) {
    Map<String, Object> fields =
        hit.fields().entrySet().stream()
            .collect(
                Collectors.toMap(
                    Map.Entry::getKey,
                    entry -> shown(entry.getValue()),
                    (a, b) -> a,
                    LinkedHashMap::new));
    return new SearchAnswer.Result(
        hit.key(),
        Math.round(hit.score() * 1000) / 1000.0,
        fields,
        hit.highlights(),
        near == null ? null : distances(hit, near),
        edition.feed().isSetAside(hit.key()) ? true : null,
        hit.group() == null ? null : group(edition, hit.group(), near));
  }

  private static SearchAnswer.Group group(
      Edition edition, SearchResult.Group group, @Nullable Place near) {
    return new SearchAnswer.Group(
        group.value() == null ? null : group.value().toString(),
        group.total(),
        group.others().stream().map(hit -> result(edition, hit, near)).toList());
  }

  /** How far shown places are from the caller, to the nearest metre; null if none is shown. */
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

  /** Dates as ISO 8601 text, places as latitude and longitude; a single value without a list. */
  static Object shown(List<Object> values) {
    List<Object> plain =
        values.stream()
            .map(
                v ->
                    v instanceof java.time.temporal.Temporal || v instanceof java.math.BigDecimal
                        ? (Object) v.toString()
                        : v)
            .toList();
    return plain.size() == 1 ? plain.getFirst() : plain;
  }
}
