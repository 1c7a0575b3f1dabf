package org.mnemex.client;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.type.TypeReference;

/** Calls about how good results are; made by {@link MnemexClient#quality}. */
public final class QualityClient {
  private final Calls calls;

  QualityClient(Calls calls) {
    this.calls = calls;
  }

  /** Asks two editions, or one under two definitions, the same queries. */
  public ComparedEditions compare(String endpoint, CompareRequest wanted) {
    return calls.post(
        "/api/endpoints/" + Calls.encode(endpoint) + "/compare", wanted, new TypeReference<>() {});
  }

  /**
   * Tries definitions on an endpoint, without applying them: for an hour, it can be called under
   * another name as it would be under them.
   *
   * @param textByName texts by the names of their files
   */
  public EndpointTrial tryDefinitions(String endpoint, Map<String, String> textByName) {
    return calls.post(
        "/api/endpoints/" + Calls.encode(endpoint) + "/trials",
        Map.of("files", Calls.files(textByName)),
        new TypeReference<>() {});
  }

  /**
   * Scores an edition by a scorecard and records the score.
   *
   * @param edition null for the live one
   */
  public Scored score(String scorecard, @Nullable Integer edition) {
    return score(scorecard, edition, null);
  }

  /**
   * Scores an edition by a scorecard.
   *
   * @param edition null for the live one
   * @param settings definition of the endpoint to use, whose score is not recorded; or null
   */
  public Scored score(String scorecard, @Nullable Integer edition, @Nullable String settings) {
    return calls.post(
        "/api/scorecards/"
            + Calls.encode(scorecard)
            + "/score"
            + (edition == null ? "" : "?edition=" + edition),
        settings == null ? Map.of() : Map.of("settings", settings),
        new TypeReference<>() {});
  }

  /** Earlier scores, oldest first. */
  public List<ScoreEntry> scores(String scorecard) {
    return calls.get(
        "/api/scorecards/" + Calls.encode(scorecard) + "/history", new TypeReference<>() {});
  }
}
