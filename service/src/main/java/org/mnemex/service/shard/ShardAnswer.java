package org.mnemex.service.shard;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.EngineException;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.error.UnknownFieldException;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.ShardResult;

/** What a {@link ShardCall} is answered, as data. */
sealed interface ShardAnswer {
  record Count(long documents) implements ShardAnswer {}

  record Facts(Map<String, Fact> facts) implements ShardAnswer {}

  record Found(List<ShardResult> results) implements ShardAnswer {}

  record Hits(List<SearchResult.@Nullable Hit> hits) implements ShardAnswer {}

  record Explained(@Nullable Explanation explanation) implements ShardAnswer {}

  record Terms(Fact.Terms terms) implements ShardAnswer {}

  record Counts(List<Long> results) implements ShardAnswer {}

  record Having(Map<String, Map<String, Long>> documents) implements ShardAnswer {}

  record Fitting(List<Phrases.Found> values) implements ShardAnswer {}

  /** The snapshot that was asked is not here, or not any more. */
  record NotHere() implements ShardAnswer {}

  /**
   * The search cannot be run.
   *
   * @param field with {@link Why#UNKNOWN_FIELD}: which one
   * @param meant with {@link Why#UNKNOWN_FIELD}: what may be meant
   */
  record Refused(Why why, String message, @Nullable String field, @Nullable String meant)
      implements ShardAnswer {
    /** Why not. */
    enum Why {
      QUERY_REFUSED,
      UNKNOWN_FIELD,
      TIMEOUT
    }

    /** What an engine has thrown; null if it is no matter of the search. */
    static @Nullable Refused of(EngineException error) {
      String message = String.valueOf(error.getMessage());
      return switch (error) {
        case QueryRefusedException refused -> new Refused(Why.QUERY_REFUSED, message, null, null);
        case UnknownFieldException unknown ->
            new Refused(Why.UNKNOWN_FIELD, message, unknown.field(), unknown.suggestion());
        case SearchTimeoutException timeout -> new Refused(Why.TIMEOUT, message, null, null);
        default -> null;
      };
    }

    /** The same to be thrown here. */
    EngineException thrown() {
      return switch (why) {
        case QUERY_REFUSED -> new QueryRefusedException(message);
        case UNKNOWN_FIELD -> new UnknownFieldException(String.valueOf(field), meant);
        case TIMEOUT -> new SearchTimeoutException(message);
      };
    }
  }
}
