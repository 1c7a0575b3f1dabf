package org.mnemex.sync.audit;

/** An audit without a result; the message says why and what to do. */
public final class AuditFailedException extends Exception {
  private static final long serialVersionUID = 1L;

  public AuditFailedException(String why) {
    super(why);
  }
}
