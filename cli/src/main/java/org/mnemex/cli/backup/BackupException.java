package org.mnemex.cli.backup;

import java.io.IOException;

/**
 * A backup that cannot be written, is not complete, or has changed; the message says what to do.
 */
public final class BackupException extends IOException {
  private static final long serialVersionUID = 1;

  BackupException(String message) {
    super(message);
  }
}
