package org.mnemex.service.search;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.UnknownFieldException;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.PlainWord;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Schema;
import org.mnemex.service.definition.CurationDefinition;

/**
 * What curations do to a call: the rules that are for its words and for today.
 *
 * @param rules the rules, in order
 */
record Curation(List<Rule> rules) {
  /**
   * A rule that applies.
   *
   * @param curation the curation that it belongs to
   * @param rule the rule
   */
  record Rule(String curation, CurationDefinition.Rule rule) {}

  /** The rules of some curations that apply to a call. */
  static Curation of(List<CurationDefinition> curations, SearchCall call, LocalDate today) {
    List<Rule> rules = new ArrayList<>();
    if (!curations.isEmpty() && !call.words().isBlank()) {
      List<String> words = CurationDefinition.words(call.words());
      for (CurationDefinition curation : curations) {
        for (CurationDefinition.Rule rule : curation.rules()) {
          if (rule.isFor(words, today)) {
            rules.add(new Rule(curation.name(), rule));
          }
        }
      }
    }
    return new Curation(rules);
  }

  /** The call with words replaced and added. */
  SearchCall call(SearchCall call) {
    String words = call.words();
    for (Rule one : rules) {
      for (PlainWord word : QueryText.plainWords(words).reversed()) {
        List<String> read = CurationDefinition.words(word.text());
        String other = read.size() == 1 ? one.rule.replace().get(read.getFirst()) : null;
        if (other != null) {
          words = words.substring(0, word.start()) + other + words.substring(word.end());
        }
      }
      if (!one.rule.add().isEmpty()) {
        words = words + " " + String.join(" ", one.rule.add());
      }
    }
    return words.equals(call.words()) ? call : call.with(words);
  }

  /** The endpoint without hidden records, and with lifts. */
  Endpoints.Answering within(Endpoints.Answering answering) {
    List<String> hidden = rules.stream().flatMap(one -> one.rule.hide().stream()).toList();
    List<Signal.Lift> lifts = new ArrayList<>();
    for (Rule one : rules) {
      Signal.Lift lift = lift(one.rule, answering.endpoint().schema());
      if (lift != null) {
        lifts.add(lift);
      }
    }
    Endpoints.Answering curated =
        lifts.isEmpty() ? answering : answering.as(answering.endpoint().lifting(lifts));
    return hidden.isEmpty()
        ? curated
        : curated.as(curated.endpoint().within(new Query.Not(new Query.Keys(hidden))));
  }

  private static Signal.@Nullable Lift lift(CurationDefinition.Rule rule, Schema schema) {
    try {
      return rule.lift() == null
          ? null
          : new Signal.Lift(FilterText.parse(rule.lift().where(), schema), rule.lift().by());
    } catch (FilterSyntaxException | UnknownFieldException | QueryRefusedException e) {
      // The filter fits an edition that is still being filled.
      return null;
    }
  }

  /** Keys of records to show first: not in an order or groups that the caller asks for. */
  List<String> first(SearchCall call) {
    boolean ordered =
        call.sorts().stream()
            .anyMatch(sort -> !call.endpoint().sorts().getOrDefault(sort, List.of()).isEmpty());
    return ordered || call.body().group() != null
        ? List.of()
        : rules.stream().flatMap(one -> one.rule.first().stream()).distinct().toList();
  }

  /** The rule that hides a record, or null. */
  @Nullable Rule hiding(String key) {
    return rules.stream().filter(one -> one.rule.hide().contains(key)).findFirst().orElse(null);
  }

  /** An explanation of a record's score that says what rules do to it. */
  Explanation explained(Explanation explanation, SearchCall call, String key) {
    if (!first(call).contains(key)) {
      return explanation;
    }
    Rule by =
        rules.stream().filter(one -> one.rule.first().contains(key)).findFirst().orElseThrow();
    return new Explanation(
        "put first by rule '%s' of curation '%s', whatever its score"
            .formatted(by.rule.name(), by.curation),
        explanation.value(),
        true,
        Explanation.How.SUM,
        List.of(explanation));
  }

  /** The explanation of a record that a rule hides. */
  static Explanation hidden(Rule by) {
    return new Explanation(
        "hidden by rule '%s' of curation '%s'".formatted(by.rule.name(), by.curation),
        0,
        false,
        null,
        List.of());
  }

  /** What an answer says of the rules; null if none applies. */
  @Nullable List<SearchAnswer.Curated> told() {
    return rules.isEmpty()
        ? null
        : rules.stream()
            .map(
                one ->
                    new SearchAnswer.Curated(
                        one.curation,
                        one.rule.name(),
                        one.rule.message() == null ? null : one.rule.message().text(),
                        one.rule.message() == null ? null : one.rule.message().link()))
            .toList();
  }

  /**
   * The results of a search.
   *
   * @param putFirst keys of the results that rules put first
   */
  record Found(SearchResult result, List<String> putFirst) {}

  /**
   * Searches, with the records to show first before all others. They need not have the words, but
   * must meet the filters and the choices of the call.
   *
   * @param request the search, from the place that the caller asks for
   * @param chosen the facets in which something is chosen
   */
  static Found search(
      SearchView view, SearchRequest request, List<String> first, List<FacetRequest> chosen) {
    if (first.isEmpty()) {
      return new Found(view.search(request), List.of());
    }
    List<SearchResult.Hit> found =
        view
            .search(
                request
                    .asking(
                        new Query.Prefer(new Query.Everything(), request.query()),
                        Query.and(request.filter(), new Query.Keys(first)))
                    .scoringAtLeast(0)
                    .after(null)
                    .at(0, first.size(), chosen))
            .hits()
            .stream()
            .sorted(Comparator.comparingInt(hit -> first.indexOf(hit.key())))
            .toList();
    if (found.isEmpty()) {
      return new Found(view.search(request), List.of());
    }
    List<String> keys = found.stream().map(SearchResult.Hit::key).toList();
    // Who continues after a result is beyond them.
    int from = request.after() == null ? Math.min(request.offset(), keys.size()) : keys.size();
    int to = Math.min(from + request.size(), keys.size());
    SearchResult others =
        view.search(
            request
                .asking(
                    request.query(),
                    Query.and(request.filter(), new Query.Not(new Query.Keys(keys))))
                .at(
                    Math.max(0, request.offset() - keys.size()),
                    request.size() - (to - from),
                    chosen));
    List<FacetResult> facets = List.of();
    if (!request.facets().isEmpty()) {
      facets =
          view.search(
                  request
                      .asking(
                          new Query.AnyOf(List.of(request.query(), new Query.Keys(keys))),
                          request.filter())
                      .scoringAtLeast(0)
                      .onlyFacets(request.facets()))
              .facets();
    }
    List<SearchResult.Hit> hits = new ArrayList<>(found.subList(from, to));
    hits.addAll(others.hits());
    return new Found(
        new SearchResult(
            others.total() + keys.size(),
            others.totalIsExact(),
            0,
            hits,
            facets,
            others.checkpoint(),
            others.partial()),
        keys);
  }
}
