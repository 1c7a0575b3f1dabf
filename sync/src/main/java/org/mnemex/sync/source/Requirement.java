package org.mnemex.sync.source;

import java.util.List;

/**
 * Something that a database must or should have for its changes to be followed.
 *
 * @param what a sentence about what is needed
 * @param met whether it is there
 * @param statements what to run if it is not, in order
 */
public record Requirement(String what, boolean met, List<String> statements, Kind kind) {
  public Requirement {
    statements = met ? List.of() : List.copyOf(statements);
  }

  /** Who can see to it, and whether it can be done without. */
  public enum Kind {
    /** Mnemex can make it, if it may. */
    PREPARABLE,
    /** Only somebody with more rights can make it. */
    ADMINISTRATIVE,
    /** Everything works without it, but slower or less surely. */
    ADVICE
  }

  /** Whether nothing can be followed before it is there. */
  public boolean isMissing() {
    return !met && kind != Kind.ADVICE;
  }
}
