package org.mnemex.publish;

import java.io.IOException;

/** A store is divided into another number of shards than its builder wants. */
public final class DividedOtherwiseException extends IOException {
  private static final long serialVersionUID = 1L;

  DividedOtherwiseException(String place, int found, int wanted) {
    super(
        "what is in the store %s is %s, and this builder %s; choose another prefix or folder"
            .formatted(
                place,
                found == 1 ? "not divided" : "divided into %d shards".formatted(found),
                wanted == 1 ? "does not divide it" : "wants %d shards".formatted(wanted)));
  }
}
