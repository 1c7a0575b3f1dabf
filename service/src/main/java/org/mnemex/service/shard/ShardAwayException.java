package org.mnemex.service.shard;

/** A shard cannot be asked now; the message says why. */
public final class ShardAwayException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  public ShardAwayException(String message) {
    super(message);
  }

  public ShardAwayException(String message, Throwable cause) {
    super(message, cause);
  }
}
