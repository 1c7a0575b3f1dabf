package org.mnemex.service.web;

import java.io.IOException;
import java.time.Duration;

/** A body arrives more slowly than the limit allows. */
final class BodyTooSlowException extends IOException {
  private static final long serialVersionUID = 1L;

  BodyTooSlowException(Duration limit) {
    super(
        "the body did not arrive in time: all of it within %d s, without a long pause"
            .formatted(limit.toSeconds()));
  }
}
