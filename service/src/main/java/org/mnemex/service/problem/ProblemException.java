package org.mnemex.service.problem;

import org.jspecify.annotations.Nullable;

/** A problem that the caller should see. */
public final class ProblemException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final ProblemType type;
  private final @Nullable String suggestion;
  private int retrySeconds;
  private boolean inAddress;

  /**
   * @param detail a sentence for people
   * @param suggestion what was probably meant, or null
   */
  public ProblemException(ProblemType type, String detail, @Nullable String suggestion) {
    super(detail);
    this.type = type;
    this.suggestion = suggestion;
  }

  /** A problem without a suggestion. */
  public ProblemException(ProblemType type, String detail) {
    this(type, detail, null);
  }

  /** Says when to try again. */
  public ProblemException retryAfter(int seconds) {
    retrySeconds = seconds;
    return this;
  }

  /** Marks the missing thing as named by the URL itself. */
  public ProblemException inAddress() {
    inAddress = true;
    return this;
  }

  public ProblemType type() {
    return type;
  }

  public @Nullable String suggestion() {
    return suggestion;
  }

  /** Seconds until a retry makes sense; 0 if unknown. */
  public int retrySeconds() {
    return retrySeconds;
  }

  /** Whether the missing thing is named by the URL. */
  public boolean isInAddress() {
    return inAddress;
  }
}
