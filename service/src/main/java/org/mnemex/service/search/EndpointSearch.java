package org.mnemex.service.search;

import io.micrometer.core.instrument.Metrics;
import io.micrometer.tracing.Span;
import io.micrometer.tracing.Tracer;
import java.time.Clock;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.compute.SearchSlots;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/** Answers searches of endpoints. */
@Component
public class EndpointSearch {
  private static final int MAX_KEYS = 100;
  private static final int MAX_TYPED = 200;

  /** With fewer results, a correction is looked for. */
  private static final int FEW = 3;

  private final Endpoints endpoints;
  private final RecordedSearches recorded;
  private final SearchSlots slots;
  private final Tracer tracer;
  private final Clock clock;

  EndpointSearch(
      Endpoints endpoints,
      RecordedSearches recorded,
      SearchSlots slots,
      Tracer tracer,
      Clock clock) {
    this.clock = clock;
    this.tracer = tracer;
    this.endpoints = endpoints;
    this.recorded = recorded;
    this.slots = slots;
  }

  /**
   * What is asked, and of what.
   *
   * @param plain the endpoint within the caller's filters, and the edition that answers
   * @param answering the same as curated
   * @param call what is asked
   * @param searched the same with the words that are searched for
   * @param curation the rules of curations that apply
   */
  record Asked(
      Endpoints.Answering plain,
      Endpoints.Answering answering,
      SearchCall call,
      SearchCall searched,
      Curation curation) {
    /** The same that may do without shards that are nowhere. */
    private Asked reachable() {
      return new Asked(plain, answering.reachable(), call, searched, curation);
    }

    /** The entity tag of the answer. */
    String tag() {
      return AnswerTag.of(answering, List.of(call.body(), curation));
    }
  }

  /**
   * Reads and checks what is asked; waits for a position if that is asked for.
   *
   * @param filters filters of the caller that results must meet
   * @param body what is asked, given the endpoint's definition
   * @throws ProblemException if there is no such endpoint, its index is still being filled, or the
   *     call is invalid
   */
  Asked asked(String name, List<String> filters, Function<EndpointDefinition, SearchBody> body) {
    Endpoints.Answering answering = endpoints.answering(name).within(filters);
    EndpointDefinition definition = answering.endpoint().definition();
    Asked asked = of(answering, new SearchCall(definition, body.apply(definition)));
    if (asked.call.body().trueFor() != null) {
      endpoints.awaitPosition(asked.answering, asked.call.body().trueFor());
    }
    return asked;
  }

  private Asked of(Endpoints.Answering answering, SearchCall call) {
    String language = call.body().language();
    Endpoints.Answering spoken = language == null ? answering : answering.speaking(language);
    Curation curation = Curation.of(answering.curations(), call, LocalDate.now(clock));
    return new Asked(spoken, curation.within(spoken), call, curation.call(call), curation);
  }

  /** Answers a search. */
  SearchAnswer search(Asked asked) {
    Span span = tracer.nextSpan().name("search").tag("endpoint", asked.call.endpoint().name());
    try (Tracer.SpanInScope _ = tracer.withSpan(span.start())) {
      return counted(asked);
    } catch (RuntimeException e) {
      span.error(e);
      throw e;
    } finally {
      span.end();
    }
  }

  private SearchAnswer counted(Asked asked) {
    long start = System.nanoTime();
    SearchAnswer answer = answer(asked);
    // What is tried is not searched for by people.
    if (asked.plain.tried() != null) {
      return answer;
    }
    // With the time that it waited for others.
    Metrics.timer("mnemex.searches", "endpoint", asked.call.endpoint().name())
        .record(System.nanoTime() - start, TimeUnit.NANOSECONDS);
    // What is found in some of the records only is not what people find.
    return answer.missingShards() == null
        ? answer.named(recorded.note(searched(asked.call, answer)))
        : answer;
  }

  private static RecordedSearches.Searched searched(SearchCall call, SearchAnswer answer) {
    return new RecordedSearches.Searched(
        call.endpoint().name(),
        call.words(),
        answer.total() == null ? answer.results().size() : answer.total().count(),
        answer.millis(),
        call.typing(),
        call.facets().keySet(),
        Math.toIntExact(call.offset()),
        call.isFirst(),
        answer.leftOut() != null,
        answer.didYouMean() != null,
        answer.curated() != null);
  }

  /**
   * Describes an endpoint as OpenAPI 3.1, with examples from what the caller may see.
   *
   * @throws ProblemException if there is no such endpoint, or its index is still being filled
   */
  String contract(String name, List<String> filters) {
    Asked asked = asked(name, filters, definition -> SearchBody.words("", 1));
    return EndpointContract.of(asked.plain, answer(asked));
  }

  /** Answers a search with a certain edition. */
  SearchAnswer search(Endpoints.Answering answering, SearchCall call) {
    return answer(of(answering, call));
  }

  /**
   * Counts that a result was opened.
   *
   * @throws ProblemException if there is no such answer, or no such record that the caller may see
   */
  void chosen(String name, List<String> filters, Chosen chosen) {
    if (chosen.key() != null && records(name, filters, List.of(chosen.key())).results().isEmpty()) {
      throw noRecord(name, chosen.key());
    }
    if (endpoints.answering(name).tried() == null) {
      int position = chosen.position() == null ? 1 : chosen.position();
      recorded.open(name, chosen.id(), chosen.key(), position);
    }
  }

  /** There is no such record that the caller may see. */
  static ProblemException noRecord(String name, String key) {
    return new ProblemException(
        ProblemType.UNKNOWN_RECORD, "endpoint '%s' has no record '%s'".formatted(name, key));
  }

  private SearchAnswer answer(Asked asked) {
    return slots.run(asked.call.endpoint().limitMillis(), () -> compute(asked.reachable()));
  }

  private static SearchAnswer compute(Asked asked) {
    long start = System.nanoTime();
    Endpoints.Answering answering = asked.answering;
    SearchCall call = asked.searched;
    SearchRequest request = SearchRequests.of(answering, call);
    List<FacetRequest> chosen = SearchRequests.chosen(answering.endpoint(), call);
    Curation.Found found =
        answering.read(
            view -> Curation.search(view, request, asked.curation.first(asked.call), chosen));
    SearchResult result = found.result();
    SearchRescue rescue = new SearchRescue(answering, call, start);
    String meant =
        result.total() < FEW && !call.words().isBlank() ? rescue.meant(result.total()) : null;
    Integer least = asked.call.body().relax();
    SearchRescue.Relaxed relaxed =
        least != null && result.total() < least ? rescue.relaxed(result.total(), least) : null;
    return SearchAnswers.of(
        asked,
        relaxed == null ? found : new Curation.Found(relaxed.result(), List.of()),
        start,
        meant,
        relaxed == null ? null : relaxed.leftOut());
  }

  /**
   * The parts of the score of a record, or why it is no result.
   *
   * @throws ProblemException if there is no record of that key
   */
  Explanation explain(
      String name,
      List<String> filters,
      Function<EndpointDefinition, SearchBody> body,
      String key) {
    Asked asked = asked(name, filters, body);
    Explanation explanation =
        slots.run(asked.call.endpoint().limitMillis(), () -> explain(asked, key));
    if (explanation == null) {
      throw noRecord(name, key);
    }
    return filters.isEmpty() ? explanation : withoutRarity(explanation);
  }

  /**
   * Rarity comes from all records, also from those that the caller's filter hides: a word's part of
   * the score stays, but not what it is made of.
   */
  private static Explanation withoutRarity(Explanation explanation) {
    boolean word = explanation.parts().stream().anyMatch(part -> part.what().startsWith("idf"));
    return new Explanation(
        word ? explanation.what().replaceFirst(": idf.*", "") : explanation.what(),
        explanation.value(),
        explanation.matched(),
        word ? null : explanation.how(),
        word
            ? List.of()
            : explanation.parts().stream().map(EndpointSearch::withoutRarity).toList());
  }

  /** The same of a certain edition; null if it has no such record. */
  @Nullable Explanation explain(Endpoints.Answering answering, SearchCall call, String key) {
    return explain(of(answering, call), key);
  }

  private static @Nullable Explanation explain(Asked asked, String key) {
    Endpoints.Answering answering = asked.answering;
    // A record that the endpoint hides does not exist for its callers, who are not to tell by the
    // time of the answer either.
    Curation.Rule hiding = asked.curation.hiding(key);
    if (hiding != null) {
      return isHidden(asked.plain, key) ? null : Curation.hidden(hiding);
    }
    Explanation explanation =
        isHidden(answering, key)
            ? null
            : explain(answering, SearchRequests.of(answering, asked.searched), key);
    return explanation == null ? null : asked.curation.explained(explanation, asked.call, key);
  }

  private static @Nullable Explanation explain(
      Endpoints.Answering answering, SearchRequest request, String key) {
    return answering.read(view -> view.explain(request, key));
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

  /**
   * Records by their keys, as results show them, in the order of the keys. What the filters hide is
   * missing, as is what does not exist.
   *
   * @throws ProblemException if there is no such endpoint, or more keys than one call answers
   */
  SearchAnswer.Records records(String name, List<String> filters, List<String> keys) {
    if (keys.size() > MAX_KEYS) {
      throw new ProblemException(
          ProblemType.TOO_MANY_KEYS,
          "%,d keys are asked for; one call answers up to %d".formatted(keys.size(), MAX_KEYS));
    }
    Endpoints.Answering answering = endpoints.answering(name).within(filters);
    Fitted endpoint = answering.endpoint();
    List<String> each = keys.stream().distinct().toList();
    SearchRequest request =
        new SearchRequest(
                new Query.Everything(),
                Query.and(endpoint.forced(), new Query.Keys(each)),
                null,
                0,
                each.size(),
                List.of(),
                new LinkedHashSet<>(endpoint.definition().show()),
                List.of())
            .within(SearchRequests.limits(endpoint.definition()));
    SearchResult result =
        slots.run(
            endpoint.definition().limitMillis(),
            () -> answering.read(view -> view.search(request)));
    return SearchAnswers.records(endpoint, each, result, answering.edition());
  }

  /**
   * The values of a facet that have a word with a certain beginning, counted over the results of a
   * search.
   *
   * @throws ProblemException if there is no such facet, or its values are no texts
   */
  SearchAnswer.FacetValues facet(
      String name,
      List<String> filters,
      Function<EndpointDefinition, SearchBody> body,
      String facet,
      String beginning) {
    if (beginning.length() > MAX_TYPED) {
      throw new ProblemException(
          ProblemType.BAD_BEGINS, "'begins' has at most " + MAX_TYPED + " characters");
    }
    Asked asked = asked(name, filters, body).reachable();
    Endpoints.Answering answering = asked.answering;
    SearchCall call = asked.searched;
    Fitted endpoint = answering.endpoint();
    EndpointDefinition.Facet defined = endpoint.definition().facets().get(facet);
    if (defined == null) {
      throw new ProblemException(
              ProblemType.UNKNOWN_FACET,
              "endpoint '%s' has no facet '%s'".formatted(name, facet),
              NearestName.to(facet, endpoint.definition().facets().keySet()))
          .inAddress();
    }
    // Choices in other facets narrow the counts; only this facet is answered.
    List<FacetRequest> facets = new ArrayList<>();
    for (EndpointDefinition.Facet other : endpoint.definition().facets().values()) {
      if (!other.name().equals(facet) && call.facets().containsKey(other.name())) {
        facets.add(SearchRequests.facet(endpoint, call, other));
      }
    }
    try {
      facets.add(endpoint.facet(defined, call.facets().getOrDefault(facet, List.of()), beginning));
    } catch (IllegalArgumentException e) {
      throw new ProblemException(ProblemType.BAD_FACET, String.valueOf(e.getMessage()));
    }
    SearchRequest request = SearchRequests.of(answering, call).onlyFacets(facets);
    SearchResult result =
        slots.run(
            endpoint.definition().limitMillis(),
            () -> answering.read(view -> view.search(request)));
    return new SearchAnswer.FacetValues(
        SearchAnswers.facet(endpoint, defined, result.facets().getLast()),
        answering.missingShards());
  }
}
