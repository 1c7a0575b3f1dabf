package org.mnemex.sync.source;

import java.util.List;

/**
 * Something that a database must have before its changes can be followed.
 *
 * @param what a sentence about what is needed
 * @param met whether it is there
 * @param statements what to run if it is not, in order
 * @param byAdministrator whether only somebody with more rights can run them
 */
public record Requirement(
    String what, boolean met, List<String> statements, boolean byAdministrator) {
  public Requirement {
    statements = met ? List.of() : List.copyOf(statements);
  }

  /** Something that is there. */
  public static Requirement met(String what) {
    return new Requirement(what, true, List.of(), false);
  }
}
