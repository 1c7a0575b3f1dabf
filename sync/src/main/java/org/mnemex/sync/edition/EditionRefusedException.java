package org.mnemex.sync.edition;

/** An edition cannot be promoted or restored; the message says why and what to do. */
public final class EditionRefusedException extends Exception {
  private static final long serialVersionUID = 1;

  EditionRefusedException(String message) {
    super(message);
  }
}
