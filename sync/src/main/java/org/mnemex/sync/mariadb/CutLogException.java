package org.mnemex.sync.mariadb;

import java.io.IOException;

/**
 * A log file ends in half an event, because the server was killed while writing. The transaction of
 * that event does not exist; the next file continues after the one before it.
 */
final class CutLogException extends IOException {
  private static final long serialVersionUID = 1L;

  CutLogException(String message, Throwable cause) {
    super(message, cause);
  }
}
