package org.mnemex.sync.extract;

import org.jspecify.annotations.Nullable;

/** A file that has no text for us, and why. */
public final class ExtractionException extends Exception {
  private static final long serialVersionUID = 1L;

  public ExtractionException(String why, @Nullable Throwable cause) {
    super(why, cause);
  }
}
