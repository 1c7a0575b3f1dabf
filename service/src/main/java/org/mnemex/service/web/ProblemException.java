package org.mnemex.service.web;

import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;

/** An error that a caller shall see. */
public final class ProblemException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final HttpStatus status;
  private final String type;
  private final @Nullable String suggestion;
  private int retrySeconds;

  /**
   * @param type stable name of the kind of problem
   * @param detail a sentence for a person
   * @param suggestion what was likely meant, or null
   */
  public ProblemException(
      HttpStatus status, String type, String detail, @Nullable String suggestion) {
    super(detail);
    this.status = status;
    this.type = type;
    this.suggestion = suggestion;
  }

  /** The caller's fault. */
  public static ProblemException badRequest(
      String type, String detail, @Nullable String suggestion) {
    return new ProblemException(HttpStatus.BAD_REQUEST, type, detail, suggestion);
  }

  /** Something that is not there. */
  public static ProblemException notFound(String type, String detail, @Nullable String suggestion) {
    return new ProblemException(HttpStatus.NOT_FOUND, type, detail, suggestion);
  }

  /** Says when to try again. */
  public ProblemException retryAfter(int seconds) {
    retrySeconds = seconds;
    return this;
  }

  HttpStatus status() {
    return status;
  }

  String type() {
    return type;
  }

  @Nullable String suggestion() {
    return suggestion;
  }

  int retrySeconds() {
    return retrySeconds;
  }
}
