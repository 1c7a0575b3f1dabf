package org.mnemex.client;

import java.util.List;

/**
 * Whether a source can be followed.
 *
 * @param problem why it does not answer; empty if it does
 * @param requirements what it must have for the indexes that use it
 */
public record SourceCheck(
    String source, boolean reachable, String problem, List<Requirement> requirements) {

  /**
   * Something that a source must have.
   *
   * @param what a sentence
   * @param statements what to run if it is missing
   * @param byAdministrator whether only somebody with more rights can run them
   */
  public record Requirement(
      String what, boolean met, List<String> statements, boolean byAdministrator) {}

  /** Whether nothing is missing. */
  public boolean passed() {
    return reachable && requirements.stream().allMatch(Requirement::met);
  }
}
