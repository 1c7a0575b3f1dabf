package org.mnemex.service.condition;

import java.util.List;
import java.util.stream.Collectors;

/**
 * What is sent at once. Conditions that begin together are told together.
 *
 * @param service how the service calls itself
 * @param at when it was written, ISO 8601, UTC
 * @param events what began or ended
 */
public record Message(String service, String at, List<Event> events) {
  /** One line about it. */
  String subject() {
    Event first = events.getFirst();
    String more = events.size() == 1 ? "" : " and %d more".formatted(events.size() - 1);
    return switch (first.state()) {
      case "begun" -> "%s: %s, %s%s".formatted(service, first.condition(), first.about(), more);
      case "over" ->
          "%s: over: %s, %s%s".formatted(service, first.condition(), first.about(), more);
      default -> service + ": a test message";
    };
  }

  /** All of it as plain text. */
  String text() {
    return events.stream()
        .map(
            event ->
                "%s %s, since %s%n%s%n"
                    .formatted(
                        event.state().equals("over") ? "Over:" : "Now:",
                        event.condition(),
                        event.since(),
                        event.text()))
        .collect(Collectors.joining("\n"));
  }
}
