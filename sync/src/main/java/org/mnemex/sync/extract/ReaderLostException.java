package org.mnemex.sync.extract;

/** A file cost the process that read it, and why. */
final class ReaderLostException extends Exception {
  private static final long serialVersionUID = 1L;

  ReaderLostException(String why, Throwable cause) {
    super(why, cause);
  }
}
