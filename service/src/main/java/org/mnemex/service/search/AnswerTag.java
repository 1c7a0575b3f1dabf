package org.mnemex.service.search;

import com.github.benmanes.caffeine.cache.Caffeine;
import com.github.benmanes.caffeine.cache.LoadingCache;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.UUID;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.endpoint.Fitted;
import org.mnemex.sync.edition.SearchedEdition;

/**
 * Entity tags of answers (RFC 9110, section 8.8.3): they stay the same as long as the snapshot of
 * the edition, the definition of the endpoint, the filters and the question do. They are weak,
 * because times in answers differ.
 */
final class AnswerTag {
  /** Of each definition in use, by identity: their texts are long, and searches many. */
  private static final LoadingCache<EndpointDefinition, UUID> DEFINITIONS =
      Caffeine.newBuilder().weakKeys().build(definition -> hash(definition.toString()));

  private AnswerTag() {}

  /** The tag of the answer to a question; a record or a list with a text form of its own. */
  static String of(Endpoints.Answering answering, Object question) {
    SearchedEdition edition = answering.edition();
    Fitted endpoint = answering.endpoint();
    EndpointDefinition definition = endpoint.definition();
    boolean ages =
        definition.signals().stream()
            .anyMatch(one -> one.shape() == EndpointDefinition.RankSignal.Shape.AGE);
    List<Object> all =
        List.of(
            edition.definition().name(),
            edition.number(),
            edition.state(),
            DEFINITIONS.get(definition),
            endpoint.forced(),
            endpoint.weights(),
            // Scores fall with the age of records.
            ages ? Instant.now().truncatedTo(ChronoUnit.MINUTES) : "",
            question);
    return "W/\"" + hash(all.toString()) + "\"";
  }

  private static UUID hash(String text) {
    return UUID.nameUUIDFromBytes(text.getBytes(StandardCharsets.UTF_8));
  }
}
