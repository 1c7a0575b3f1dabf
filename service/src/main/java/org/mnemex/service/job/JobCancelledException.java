package org.mnemex.service.job;

/** Somebody cancelled the job; its work ends by it. */
public final class JobCancelledException extends RuntimeException {
  private static final long serialVersionUID = 1;
}
