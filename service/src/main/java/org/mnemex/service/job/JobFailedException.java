package org.mnemex.service.job;

/** The work of a job cannot be done; the message says why. */
public final class JobFailedException extends Exception {
  private static final long serialVersionUID = 1;

  public JobFailedException(String message) {
    super(message);
  }

  public JobFailedException(String message, Throwable cause) {
    super(message, cause);
  }
}
