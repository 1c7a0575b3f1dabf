package org.mnemex.sync.definition;

/** One step of cleaning a field's values, in the order of the definition. */
public sealed interface CleanStep {
  /** White space at both ends goes. */
  record Trim() implements CleanStep {}

  /** Runs of white space become one space. */
  record Squeeze() implements CleanStep {}

  /** HTML becomes its text; block elements break words. */
  record StripHtml() implements CleanStep {}

  /** One value becomes several, cut at a separator. */
  record Split(String separator) implements CleanStep {}

  record Lower() implements CleanStep {}

  record Upper() implements CleanStep {}
}
