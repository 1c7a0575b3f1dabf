package org.mnemex.sync.extract;

import org.jspecify.annotations.Nullable;

/** A file without extractable text, and why. */
public final class ExtractionException extends Exception {
  private static final long serialVersionUID = 1L;

  public ExtractionException(String why, @Nullable Throwable cause) {
    super(why, cause);
  }
}
