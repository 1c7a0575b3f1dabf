package org.mnemex.service.search;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggestion;
import org.mnemex.engine.text.Folding;
import org.mnemex.service.compute.SearchSlots;
import org.mnemex.service.definition.CompletionSource;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.PhrasesDefinition;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.edition.SearchedEdition;
import org.springframework.stereotype.Component;

/** Completes what is being typed, from the sources of an endpoint. */
@Component
public class TypedCompletions {
  private static final int MAX_TYPED = 200;
  private static final int MAX_SIZE = 50;

  /** Phrases looked up for each one wanted, as some may find nothing. */
  private static final int LOOKED_UP = 3;

  private final Endpoints endpoints;
  private final RecordedSearches recorded;
  private final SearchSlots slots;

  TypedCompletions(Endpoints endpoints, RecordedSearches recorded, SearchSlots slots) {
    this.endpoints = endpoints;
    this.recorded = recorded;
    this.slots = slots;
  }

  /**
   * A completion.
   *
   * @param text what to put in the place of what was typed
   * @param marked the same as escaped HTML, with the typed part marked
   * @param from where it comes from
   * @param field the field of a value
   * @param key a record with this value
   * @param facet the facet of which the text is a value to choose
   */
  public record Completion(
      String text,
      String marked,
      From from,
      @Nullable String field,
      @Nullable String key,
      @Nullable String facet) {}

  /** Where a completion comes from. */
  public enum From {
    VALUE,
    WORD,
    FACET,
    PHRASE,
    SEARCHED;

    /** Its name in answers. */
    @JsonValue
    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }
  }

  /** A completion and whether what was typed has typing errors. */
  private record Found(Completion completion, boolean withErrors) {}

  /**
   * Completions, the best first.
   *
   * @param filters filters of the caller that records must meet
   * @throws ProblemException if there is no such endpoint, or too much is asked for
   */
  EndpointController.SuggestAnswer of(String name, List<String> filters, String text, int size) {
    if (text.length() > MAX_TYPED || size < 1 || size > MAX_SIZE) {
      throw new ProblemException(
          ProblemType.BAD_SUGGEST,
          "q has at most %d characters, size is 1 to %d".formatted(MAX_TYPED, MAX_SIZE));
    }
    Endpoints.Answering answering = endpoints.answering(name).within(filters).reachable();
    if (text.isBlank()) {
      return new EndpointController.SuggestAnswer(List.of(), null);
    }
    Asked asked = new Asked(answering, !filters.isEmpty(), text, size);
    List<Completion> found =
        slots.run(answering.endpoint().definition().limitMillis(), () -> merged(asked));
    return new EndpointController.SuggestAnswer(found, answering.missingShards());
  }

  private record Asked(Endpoints.Answering answering, boolean filtered, String text, int size) {
    Fitted endpoint() {
      return answering.endpoint();
    }

    SuggestRequest request(List<String> fields, @Nullable String order) {
      return new SuggestRequest(
          text,
          fields,
          size,
          endpoint().forced(),
          SearchRequests.signals(endpoint(), null),
          order,
          SearchRequests.limits(endpoint().definition()));
    }
  }

  /**
   * Each source gives its share, in the order of the definition; what is left free goes to those
   * that have more. What was typed with errors comes last.
   */
  private List<Completion> merged(Asked asked) {
    Map<String, Completion> first = new LinkedHashMap<>();
    List<Completion> more = new ArrayList<>();
    List<Completion> withErrors = new ArrayList<>();
    for (CompletionSource source : asked.endpoint().definition().completions()) {
      if (first.size() >= asked.size) {
        break;
      }
      int share = Math.min(source.most(), asked.size);
      for (Found found : found(asked, source)) {
        if (found.withErrors) {
          withErrors.add(found.completion);
        } else if (share > 0) {
          share -= first.putIfAbsent(folded(found.completion), found.completion) == null ? 1 : 0;
        } else {
          more.add(found.completion);
        }
      }
    }
    more.addAll(withErrors);
    more.forEach(one -> first.putIfAbsent(folded(one), one));
    return first.values().stream().limit(asked.size).toList();
  }

  private static String folded(Completion completion) {
    return Folding.foldCase(completion.text);
  }

  private List<Found> found(Asked asked, CompletionSource source) {
    return switch (source) {
      case CompletionSource.Values values -> values(asked, values);
      case CompletionSource.Words words -> words(asked);
      case CompletionSource.Facets facets -> facets(asked, facets);
      case CompletionSource.Given given -> given(asked, given);
      case CompletionSource.Searched searched -> searched(asked, searched);
    };
  }

  private static List<Found> values(Asked asked, CompletionSource.Values values) {
    List<String> fields = values.of().isEmpty() ? completing(asked.endpoint()) : values.of();
    if (fields.isEmpty()) {
      return List.of();
    }
    SuggestRequest request = asked.request(fields, values.recent());
    List<Suggestion> suggestions = asked.answering.read(view -> view.suggest(request));
    return suggestions.stream()
        .map(
            one ->
                new Found(
                    new Completion(
                        one.text(), one.marked(), From.VALUE, one.field(), one.key(), null),
                    one.withErrors()))
        .toList();
  }

  /** The shown fields whose values complete what is typed. */
  private static List<String> completing(Fitted endpoint) {
    return endpoint.schema().fields().stream()
        .filter(
            field ->
                field.type() == FieldType.TEXT
                    && field.hasTerms()
                    && field.uses().contains(Use.SUGGEST)
                    && endpoint.definition().show().contains(field.name()))
        .map(Field::name)
        .toList();
  }

  private static List<Found> words(Asked asked) {
    SuggestRequest request = asked.request(asked.endpoint().completedWords(), null);
    return asked.answering.read(view -> view.words(request)).stream()
        .map(
            one ->
                new Found(
                    new Completion(one.text(), one.marked(), From.WORD, null, null, null),
                    one.withErrors()))
        .toList();
  }

  private static List<Found> facets(Asked asked, CompletionSource.Facets facets) {
    Fitted endpoint = asked.endpoint();
    Map<Phrases.Found, String> facetOf = new LinkedHashMap<>();
    for (String name : facets.of()) {
      EndpointDefinition.Facet defined = endpoint.definition().facets().get(name);
      if (defined != null) {
        asked
            .answering
            .read(
                view ->
                    view.values(
                        defined.field(),
                        asked.text,
                        asked.size,
                        endpoint.forced(),
                        SearchRequests.limits(endpoint.definition())))
            .forEach(found -> facetOf.putIfAbsent(found, name));
      }
    }
    return facetOf.keySet().stream()
        .sorted(Phrases.Found.BEST_FIRST)
        .map(one -> new Found(completion(one, From.FACET, facetOf.get(one)), isWithErrors(one)))
        .toList();
  }

  private static Completion completion(Phrases.Found found, From from, @Nullable String facet) {
    return new Completion(found.phrase().text(), found.marked(), from, null, null, facet);
  }

  private static boolean isWithErrors(Phrases.Found found) {
    return found.fit() == Phrases.Fit.ERRORS;
  }

  private List<Found> given(Asked asked, CompletionSource.Given given) {
    List<Found> all = new ArrayList<>();
    for (String name : given.of()) {
      PhrasesDefinition phrases = endpoints.phrases(name);
      if (phrases != null && phrases.from() == null) {
        all.addAll(finding(asked, phrases.listed(), From.PHRASE, phrase -> true));
      } else if (phrases != null) {
        all.addAll(fromIndex(asked, phrases.from()));
      }
    }
    return all;
  }

  /** The filters of an endpoint are about its own index: what is found there decides. */
  private List<Found> fromIndex(Asked asked, PhrasesDefinition.FromIndex from) {
    SearchedEdition edition = endpoints.live(from.index());
    if (edition == null) {
      return List.of();
    }
    SuggestRequest request =
        new SuggestRequest(
            asked.text,
            List.of(from.field()),
            LOOKED_UP * asked.size,
            new Query.Everything(),
            List.of(),
            from.weight(),
            SearchRequests.limits(asked.endpoint().definition()));
    return edition.search(view -> view.suggest(request)).stream()
        .filter(one -> finds(asked, one.text()))
        .limit(asked.size)
        .map(
            one ->
                new Found(
                    new Completion(one.text(), one.marked(), From.PHRASE, null, null, null),
                    one.withErrors()))
        .toList();
  }

  /**
   * What others search for is theirs: callers with filters of their own, such as the tenants of a
   * shared index, are not told.
   */
  private List<Found> searched(Asked asked, CompletionSource.Searched searched) {
    return asked.filtered
        ? List.of()
        : finding(
            asked,
            recorded.asked(asked.endpoint().definition().name()),
            From.SEARCHED,
            phrase -> phrase.weight() >= searched.least());
  }

  private static List<Found> finding(
      Asked asked, Phrases phrases, From from, Predicate<Phrases.Phrase> wanted) {
    return phrases.find(asked.text, LOOKED_UP * asked.size).stream()
        .filter(one -> wanted.test(one.phrase()))
        .filter(one -> finds(asked, one.phrase().text()))
        .limit(asked.size)
        .map(one -> new Found(completion(one, from, null), isWithErrors(one)))
        .toList();
  }

  /** Whether a search for some words has a result. */
  private static boolean finds(Asked asked, String words) {
    SearchCall call = new SearchCall(asked.endpoint().definition(), SearchBody.words(words, 1));
    SearchRequest request = SearchRequests.of(asked.answering, call).onlyFacets(List.of());
    return asked.answering.read(view -> view.finds(request));
  }
}
