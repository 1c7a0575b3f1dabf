package org.mnemex.service.search;

import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.EngineException;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.ScorecardDefinition;
import org.mnemex.service.definition.ScorecardDefinition.GradedQuery;
import org.mnemex.service.install.AnswerCheck;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningScorecard;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.ScoreMapper;
import org.mnemex.service.store.ScoreMapper.ScoreRow;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.SearchedEdition;
import org.mnemex.sync.score.Score;
import org.springframework.stereotype.Component;

/** Runs the queries of scorecards and scores the results by the grades. */
@Component
public class Scorecards implements AnswerCheck {
  private static final int KEPT = 1000;
  private static final int SHOWN = 100;

  private final Installation installation;
  private final Endpoints endpoints;
  private final EndpointSearch search;
  private final ScoreMapper scores;
  private final Clock clock;

  Scorecards(
      Installation installation,
      Endpoints endpoints,
      EndpointSearch search,
      ScoreMapper scores,
      Clock clock) {
    this.installation = installation;
    this.endpoints = endpoints;
    this.search = search;
    this.scores = scores;
    this.clock = clock;
  }

  /**
   * The result of a scorecard.
   *
   * @param scorecard name of the scorecard
   * @param version version of its definition
   * @param edition number of the edition that was scored
   * @param top how many results counted
   * @param total means over all queries
   * @param queries query by query
   */
  public record Scored(
      String scorecard, int version, int edition, int top, Score total, List<ScoredQuery> queries) {
    /** The result in a sentence. */
    String told() {
      return "nDCG %.3f of the first %d results of %,d queries, edition %d"
          .formatted(total.ndcg(), top, queries.size(), edition);
    }
  }

  /**
   * The score of a query.
   *
   * @param words the query
   * @param score how good its results are
   * @param missing keys of records with a grade above 0 that are not among the first results
   * @param problem why the query could not be asked, which counts as finding nothing; or null
   */
  public record ScoredQuery(
      String words, Score score, List<String> missing, @Nullable String problem) {}

  /** The definitions of all scorecards. */
  List<ScorecardDefinition> all() {
    return installation.running().scorecards().values().stream()
        .map(RunningScorecard::scorecard)
        .toList();
  }

  private RunningScorecard known(String name) {
    Map<String, RunningScorecard> all = installation.running().scorecards();
    RunningScorecard found = all.get(name);
    if (found == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_SCORECARD,
          "there is no scorecard '" + name + "'",
          NearestName.to(name, all.keySet()));
    }
    return found;
  }

  /**
   * Scores an edition and records the score.
   *
   * @param edition null for the live one
   * @param settings definition of the endpoint to use instead of the current one, whose score is
   *     not recorded; or null
   */
  Scored score(
      String name, @Nullable Integer edition, @Nullable String settings, JobProgress progress) {
    RunningScorecard scorecard = known(name);
    String endpoint = scorecard.scorecard().endpoint();
    Endpoints.Answering answering =
        edition == null ? endpoints.answering(endpoint) : endpoints.answering(endpoint, edition);
    if (settings != null) {
      return score(scorecard, endpoints.trying(settings, answering.edition()), progress);
    }
    Scored scored = score(scorecard, answering, progress);
    note(scored, answering.edition());
    return scored;
  }

  private void note(Scored scored, SearchedEdition edition) {
    Score total = scored.total;
    scores.insert(
        scored.scorecard,
        new ScoreRow(
            scored.version,
            edition.number(),
            edition.version(),
            clock.instant().toString(),
            total.ndcg(),
            total.reciprocalRank(),
            total.precision(),
            total.recall()));
    scores.trim(scored.scorecard, KEPT);
  }

  /** Earlier scores, oldest first. */
  List<ScoreRow> history(String name) {
    known(name);
    return scores.last(name, SHOWN);
  }

  private Scored score(
      RunningScorecard scorecard, Endpoints.Answering answering, JobProgress progress) {
    List<ScoredQuery> queries = new ArrayList<>();
    ScorecardDefinition definition = scorecard.scorecard();
    progress.total(definition.queries().size());
    for (GradedQuery query : definition.queries()) {
      progress.done(queries.size());
      ScoredQuery scored = score(query, definition.top(), answering);
      queries.add(scored);
      if (scored.problem() != null) {
        progress.say("'%s' could not be asked: %s".formatted(query.words(), scored.problem()));
      }
    }
    progress.done(queries.size());
    return new Scored(
        definition.name(),
        scorecard.version(),
        answering.edition().number(),
        definition.top(),
        Score.mean(queries.stream().map(ScoredQuery::score).toList()),
        queries);
  }

  private ScoredQuery score(GradedQuery query, int top, Endpoints.Answering answering) {
    List<String> keys = List.of();
    String problem = null;
    try {
      keys =
          search
              .search(answering, EditionComparison.call(answering, query.words(), top))
              .results()
              .stream()
              .map(SearchAnswer.Result::key)
              .toList();
    } catch (ProblemException | EngineException e) {
      problem = e.getMessage();
    }
    List<String> found = keys;
    List<String> missing =
        query.grades().entrySet().stream()
            .filter(grade -> grade.getValue() > 0 && !found.contains(grade.getKey()))
            .map(Map.Entry::getKey)
            .sorted()
            .toList();
    return new ScoredQuery(query.words(), Score.of(keys, query.grades(), top), missing, problem);
  }

  @Override
  public @Nullable String objection(Edition filled, Edition live) {
    String index = filled.definition().name();
    for (RunningScorecard scorecard : installation.running().scorecards().values()) {
      ScorecardDefinition definition = scorecard.scorecard();
      boolean concerned =
          endpoints.all().stream()
              .anyMatch(e -> e.name().equals(definition.endpoint()) && e.index().equals(index));
      if (concerned) {
        String objection = objection(scorecard, filled, live);
        if (objection != null) {
          return objection;
        }
      }
    }
    return null;
  }

  private @Nullable String objection(RunningScorecard scorecard, Edition filled, Edition live) {
    ScorecardDefinition definition = scorecard.scorecard();
    Scored scored =
        score(
            scorecard,
            endpoints.answering(definition.endpoint(), filled.number()),
            JobProgress.NONE);
    note(scored, filled);
    double now = scored.total.ndcg();
    if (now < definition.least()) {
      return String.format(
          Locale.ROOT,
          "scorecard '%s' is %.3f with edition %d; the minimum is %.3f",
          definition.name(),
          now,
          filled.number(),
          definition.least());
    }
    Double mostFall = definition.mostFall();
    if (mostFall == null) {
      return null;
    }
    double before =
        score(
                scorecard,
                endpoints.answering(definition.endpoint(), live.number()),
                JobProgress.NONE)
            .total
            .ndcg();
    return before - now > mostFall
        ? String.format(
            Locale.ROOT,
            "scorecard '%s' falls from %.3f to %.3f with edition %d; it may fall by at most %.3f",
            definition.name(),
            before,
            now,
            filled.number(),
            mostFall)
        : null;
  }
}
