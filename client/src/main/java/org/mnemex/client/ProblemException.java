package org.mnemex.client;

/** The service refused a call. */
public final class ProblemException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final transient Problem problem;

  ProblemException(Problem problem) {
    super(String.valueOf(problem.detail()));
    this.problem = problem;
  }

  public Problem problem() {
    return problem;
  }
}
