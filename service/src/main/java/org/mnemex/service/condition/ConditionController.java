package org.mnemex.service.condition;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RestController;

/** Conditions, and who is told. */
@Tag(name = "Conditions", description = "what somebody should know of, and who is told")
@RestController
class ConditionController {
  private final Conditions conditions;
  private final Messages messages;

  ConditionController(Conditions conditions, Messages messages) {
    this.conditions = conditions;
    this.messages = messages;
  }

  /**
   * Conditions and channels.
   *
   * @param held what holds now, the oldest first
   * @param ended what has ended, the last first
   * @param channels who is told
   */
  record Told(
      List<Conditions.ConditionView> held,
      List<Conditions.ConditionView> ended,
      List<Messages.ChannelView> channels) {}

  @Operation(
      summary = "List conditions, and the channels over which they are told",
      description = "What holds now, the last 50 that ended, and whether messages arrive.")
  @GetMapping("/api/conditions")
  Told list() {
    return new Told(conditions.held(), conditions.ended(), messages.channels());
  }

  @Operation(
      summary = "Send a test message over every channel",
      description = "Once and at once; answers what became of each.")
  @PostMapping("/api/conditions/test")
  List<Messages.Tried> test() {
    return messages.test();
  }
}
