package org.mnemex.publish;

import java.io.IOException;

/** The store belongs to another installation. */
public final class StoreTakenException extends IOException {
  private static final long serialVersionUID = 1L;

  StoreTakenException(String place, BuilderTurn other) {
    super(
        "the store %s belongs to installation %s; choose another prefix or folder, or remove 'catalogue' there if that installation is gone"
            .formatted(place, other.installation()));
  }
}
