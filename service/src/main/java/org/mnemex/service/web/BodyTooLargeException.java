package org.mnemex.service.web;

import java.io.IOException;

/** A body exceeds the limit. */
final class BodyTooLargeException extends IOException {
  private static final long serialVersionUID = 1L;

  BodyTooLargeException(long most) {
    super("the body is larger than %,d bytes; send it in parts".formatted(most));
  }
}
