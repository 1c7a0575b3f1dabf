package org.mnemex.publish.store;

import java.io.IOException;

/** An object is not the one that was to be replaced: somebody else was faster. */
public final class ReplacedException extends IOException {
  private static final long serialVersionUID = 1L;

  public ReplacedException(String place, String name) {
    super("'%s' in the store %s was replaced by somebody else".formatted(name, place));
  }
}
