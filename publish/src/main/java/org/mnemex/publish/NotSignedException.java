package org.mnemex.publish;

import java.io.IOException;

/** An object is not signed, or not with the key that is known here. */
public final class NotSignedException extends IOException {
  private static final long serialVersionUID = 1L;

  NotSignedException(String place, String name, String why) {
    super("'%s' in the store %s %s".formatted(name, place, why));
  }
}
