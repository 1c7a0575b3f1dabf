package org.mnemex.sync.source;

/** The source no longer has the changes after a position; only a new backfill helps. */
public final class PositionLostException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  public PositionLostException(String why) {
    super(why);
  }
}
