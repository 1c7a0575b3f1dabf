package org.mnemex.sync.source;

import org.jspecify.annotations.Nullable;

/** The database is unreachable; a retry may help. */
public final class SourceUnavailableException extends Exception {
  private static final long serialVersionUID = 1L;

  public SourceUnavailableException(String why, @Nullable Throwable cause) {
    super(why, cause);
  }
}
