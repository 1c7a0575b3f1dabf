package org.mnemex.service.condition;

/**
 * The beginning or the end of a condition, as it is told.
 *
 * @param state begun or over; of a message that somebody asked for, test
 * @param condition such as {@code behind}
 * @param about the index, source or endpoint
 * @param since when it began, ISO 8601, UTC
 * @param text what is the matter and what to do
 */
public record Event(String state, String condition, String about, String since, String text) {
  static Event of(HeldConditions.Change change) {
    HeldConditions.Held held = change.held();
    return new Event(
        change.begun() ? "begun" : "over",
        held.condition().word(),
        held.about(),
        held.since().toString(),
        held.text());
  }
}
