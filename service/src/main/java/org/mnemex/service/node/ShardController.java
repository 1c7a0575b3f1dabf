package org.mnemex.service.node;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.Parameter;
import io.swagger.v3.oas.annotations.enums.ParameterIn;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.time.Duration;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.publish.Following;
import org.mnemex.service.shard.ShardAnswers;
import org.mnemex.service.shard.ShardsHere;
import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.core.JacksonException;

/** The shards of this node, for other nodes. */
@Tag(name = "Store", description = "editions for other machines")
@RestController
class ShardController {
  private static final int MAX_WAIT_MILLIS = 10_000;

  private final Following following;
  private final ShardAnswers answers;

  ShardController(Following following, ShardAnswers answers) {
    this.following = following;
    this.answers = answers;
  }

  @Operation(
      summary = "List the shards that this search node has for others",
      description =
          "None if it does not share the shards of indexes with other nodes. With 'known', it waits"
              + " until there is something else.")
  @Parameter(
      name = "known",
      in = ParameterIn.QUERY,
      description = "what 'upTo' of the answer before said",
      example = "5ad3f09c-17")
  @Parameter(
      name = "wait",
      in = ParameterIn.QUERY,
      description = "how long to wait at most, in milliseconds; otherwise not at all",
      example = "500")
  @GetMapping("/api/shards")
  ShardsHere shards(
      @RequestParam(required = false) @Nullable String known,
      @RequestParam(defaultValue = "0") int wait)
      throws InterruptedException {
    return following.held(known, Duration.ofMillis(Math.clamp(wait, 0, MAX_WAIT_MILLIS)));
  }

  @Operation(
      summary = "Ask shards for a part of a search",
      description =
          "For search nodes of the same version, which share the shards of indexes. The form of"
              + " questions and answers may change with any version.")
  @PostMapping(
      path = "/api/shards",
      consumes = MediaType.APPLICATION_JSON_VALUE,
      produces = MediaType.APPLICATION_JSON_VALUE)
  byte[] ask(@RequestBody byte[] question) {
    try {
      return answers.answer(question, following::held);
    } catch (JacksonException e) {
      throw new ProblemException(
          ProblemType.BAD_BODY, "this is no question of a search node of this version");
    }
  }
}
