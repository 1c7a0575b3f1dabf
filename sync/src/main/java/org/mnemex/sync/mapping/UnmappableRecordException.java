package org.mnemex.sync.mapping;

/** A record of which no document can be made, with the field and the reason. */
public final class UnmappableRecordException extends Exception {
  private static final long serialVersionUID = 1L;

  public UnmappableRecordException(String field, String reason) {
    super("field '" + field + "': " + reason);
  }

  /** Something failed that nobody foresaw. */
  UnmappableRecordException(Throwable cause) {
    super("it cannot be mapped: " + cause, cause);
  }
}
