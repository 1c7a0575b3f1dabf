package org.mnemex.sync.mapping;

/** A record that cannot be mapped, with the field and the reason. */
public final class UnmappableRecordException extends Exception {
  private static final long serialVersionUID = 1L;

  public UnmappableRecordException(String field, String reason) {
    super("field '" + field + "': " + reason);
  }

  /** An unexpected failure. */
  UnmappableRecordException(Throwable cause) {
    super("it cannot be mapped: " + cause, cause);
  }
}
