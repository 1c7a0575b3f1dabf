package org.mnemex.sync.source;

import java.util.List;

/**
 * Something that a database needs so that its changes can be followed.
 *
 * @param what what is needed, in one sentence
 * @param met whether it is there
 * @param statements what to run if it is not, in order
 * @param kind whether it is required or only advised
 */
public record Requirement(String what, boolean met, List<String> statements, Kind kind) {
  public Requirement {
    statements = met ? List.of() : List.copyOf(statements);
  }

  /** Who can meet a requirement, and whether it is optional. */
  public enum Kind {
    /** Mnemex can create it, with consent. */
    PREPARABLE,
    /** Only an administrator can create it. */
    ADMINISTRATIVE,
    /** Optional: everything works without it, but slower or less reliably. */
    ADVICE
  }

  /** Whether changes cannot be followed until it is there. */
  public boolean isMissing() {
    return !met && kind != Kind.ADVICE;
  }
}
