package org.mnemex.publish;

import java.io.IOException;

/** Another process writes to the store now; this one must not any more. */
public final class SupersededException extends IOException {
  private static final long serialVersionUID = 1L;

  SupersededException(String place, BuilderTurn other) {
    super(
        "another process (%s, turn %d of installation %s) publishes to the store %s now, so this one has stopped; stop one of the two, and start this one again if it is to go on"
            .formatted(other.process(), other.turn(), other.installation(), place));
  }
}
