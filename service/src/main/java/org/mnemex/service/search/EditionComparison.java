package org.mnemex.service.search;

import com.fasterxml.jackson.annotation.JsonSetter;
import com.fasterxml.jackson.annotation.Nulls;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.EngineException;
import org.mnemex.engine.request.Explanation;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.install.AnswerCheck;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.search.ComparedEditions.ComparedQuery;
import org.mnemex.service.search.ComparedEditions.ComparedResult;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.SearchedEdition;
import org.springframework.stereotype.Component;

/** Asks two editions of an index the same queries. */
@Component
public class EditionComparison implements AnswerCheck {
  private static final int MAX_QUERIES = 200;
  private static final int MAX_RESULTS = 100;
  private static final int USUAL_RESULTS = 10;

  private final Endpoints endpoints;
  private final EndpointSearch search;
  private final RecordedSearches recorded;

  EditionComparison(Endpoints endpoints, EndpointSearch search, RecordedSearches recorded) {
    this.endpoints = endpoints;
    this.search = search;
    this.recorded = recorded;
  }

  /**
   * What to compare.
   *
   * @param queries the queries; null for the most frequent ones
   * @param left number of the left edition; null for the live one
   * @param right number of the right edition; null for the next one, or else the previous one
   * @param top how many results of each query to compare; null for 10
   * @param settings definition of the endpoint for the right side, YAML; null for the current one.
   *     If no editions are given, both sides ask the same edition
   * @param files definitions that are not applied, for the right side: the live edition is asked as
   *     it would be under them; null for none
   */
  public record Wanted(
      @JsonSetter(contentNulls = Nulls.FAIL) @Nullable List<String> queries,
      @Nullable Integer left,
      @Nullable Integer right,
      @Nullable Integer top,
      @Nullable String settings,
      @JsonSetter(contentNulls = Nulls.FAIL) @Nullable List<DefinitionFile> files) {}

  /** Two editions and what is asked of them. */
  private record Sides(Endpoints.Answering left, Endpoints.Answering right) {}

  private Sides sides(String endpoint, Wanted wanted) {
    if (wanted.files() != null && !wanted.files().isEmpty()) {
      return new Sides(endpoints.answering(endpoint), endpoints.trying(endpoint, wanted.files()));
    }
    if (wanted.settings() == null) {
      return sides(endpoint, wanted.left(), wanted.right());
    }
    Endpoints.Answering left =
        wanted.left() == null
            ? endpoints.answering(endpoint)
            : endpoints.answering(endpoint, wanted.left());
    SearchedEdition right =
        wanted.right() == null
            ? left.edition()
            : endpoints.answering(endpoint, wanted.right()).edition();
    return new Sides(left, endpoints.trying(wanted.settings(), right));
  }

  private Sides sides(String endpoint, @Nullable Integer left, @Nullable Integer right) {
    Endpoints.Answering one =
        left == null ? endpoints.answering(endpoint) : endpoints.answering(endpoint, left);
    Endpoints.Answering other =
        right == null ? endpoints.other(endpoint) : endpoints.answering(endpoint, right);
    return new Sides(one, other);
  }

  @Override
  public @Nullable String objection(Edition filled, Edition live) {
    double most = filled.definition().mostChanged();
    if (most >= 1) {
      return null;
    }
    for (EndpointDefinition endpoint : endpoints.all()) {
      String name = endpoint.name();
      boolean concerned = endpoint.index().equals(filled.definition().name());
      List<String> queries = concerned ? recorded.most(name, MAX_QUERIES) : List.of();
      if (queries.isEmpty()) {
        continue;
      }
      ComparedEditions compared =
          compare(
              name,
              new Wanted(queries, live.number(), filled.number(), null, null, null),
              JobProgress.NONE);
      if (compared.changedShare() > most) {
        return "%.0f%% of the first %d results of %d recorded queries at endpoint '%s' would change, and most_changed is %.0f%%"
            .formatted(
                100 * compared.changedShare(), compared.top(), queries.size(), name, 100 * most);
      }
    }
    return null;
  }

  /**
   * Compares.
   *
   * @throws ProblemException if there are no such editions, or no queries are recorded yet
   */
  ComparedEditions compare(String endpoint, Wanted wanted, JobProgress progress) {
    int top = wanted.top() == null ? USUAL_RESULTS : wanted.top();
    if (top < 1 || top > MAX_RESULTS) {
      throw new ProblemException(ProblemType.BAD_TOP, "'top' is 1 to " + MAX_RESULTS);
    }
    Sides sides = sides(endpoint, wanted);
    List<String> queries =
        wanted.queries() == null ? recorded.most(endpoint, MAX_QUERIES) : wanted.queries();
    if (queries.isEmpty() || queries.size() > MAX_QUERIES) {
      throw new ProblemException(
          ProblemType.NO_QUERIES,
          queries.isEmpty()
              ? "endpoint '%s' has no recorded queries yet; give the queries to compare by"
                  .formatted(endpoint)
              : "up to %d queries are compared at once".formatted(MAX_QUERIES));
    }
    List<ComparedQuery> compared = new ArrayList<>();
    List<String> toZero = new ArrayList<>();
    List<String> fromZero = new ArrayList<>();
    long results = 0;
    long changed = 0;
    progress.total(queries.size());
    for (String words : queries) {
      progress.done(compared.size());
      ComparedQuery one = compare(sides, words, top);
      compared.add(one);
      if (one.problem() != null) {
        progress.say("'%s' could not be asked: %s".formatted(words, one.problem()));
      }
      results += Math.max(one.left().size(), one.right().size());
      changed += one.changed();
      if (one.problem() == null && one.leftTotal() > 0 && one.rightTotal() == 0) {
        toZero.add(words);
      }
      if (one.problem() == null && one.leftTotal() == 0 && one.rightTotal() > 0) {
        fromZero.add(words);
      }
    }
    progress.done(queries.size());
    return new ComparedEditions(
        endpoint,
        sides.left.edition().number(),
        sides.right.edition().number(),
        top,
        results == 0 ? 0 : (double) changed / results,
        toZero,
        fromZero,
        compared);
  }

  private ComparedQuery compare(Sides sides, String words, int top) {
    try {
      SearchAnswer left = search.search(sides.left, call(sides.left, words, top));
      SearchAnswer right = search.search(sides.right, call(sides.right, words, top));
      List<String> leftKeys = left.results().stream().map(SearchAnswer.Result::key).toList();
      List<String> rightKeys = right.results().stream().map(SearchAnswer.Result::key).toList();
      List<ComparedResult> lefts = results(left, rightKeys);
      List<ComparedResult> rights = results(right, leftKeys);
      return new ComparedQuery(
          words,
          left.total().count(),
          right.total().count(),
          Math.max(gone(lefts), gone(rights)),
          leftKeys.equals(rightKeys),
          lefts,
          rights,
          null);
    } catch (ProblemException | EngineException e) {
      return new ComparedQuery(words, 0, 0, 0, true, List.of(), List.of(), e.getMessage());
    }
  }

  private static int gone(List<ComparedResult> results) {
    return (int) results.stream().filter(result -> result.other() == null).count();
  }

  /** A plain search with some words. */
  static SearchCall call(Endpoints.Answering side, String words, int top) {
    int size = Math.min(top, side.endpoint().definition().pageMost());
    return new SearchCall(side.endpoint().definition(), SearchBody.words(words, size));
  }

  private static List<ComparedResult> results(SearchAnswer answer, List<String> otherKeys) {
    List<ComparedResult> results = new ArrayList<>();
    for (SearchAnswer.Result result : answer.results()) {
      int other = otherKeys.indexOf(result.key());
      String title = answer.card().title();
      Object named = title == null ? null : result.fields().get(title);
      results.add(
          new ComparedResult(
              result.key(),
              named == null ? "" : named.toString(),
              result.score(),
              other < 0 ? null : other + 1));
    }
    return results;
  }

  /**
   * Why a record ranks where it does, in each of two editions.
   *
   * @param left the left edition's explanation; null if it does not have the record
   * @param right the right edition's explanation; null if it does not have the record
   */
  public record ComparedExplanations(@Nullable Explanation left, @Nullable Explanation right) {}

  /** Explains a record's score for some words in both editions. */
  ComparedExplanations explain(
      String endpoint, String words, String key, @Nullable Integer left, @Nullable Integer right) {
    Sides sides = sides(endpoint, left, right);
    return new ComparedExplanations(
        search.explain(sides.left, call(sides.left, words, 1), key),
        search.explain(sides.right, call(sides.right, words, 1), key));
  }
}
