package org.mnemex.cli;

/** Exit codes of commands. */
final class ExitCode {
  static final int DONE = 0;
  static final int FAILED = 1;
  static final int USAGE = 2;
  static final int REFUSED = 3;
  static final int UNREACHABLE = 4;

  /** Of a plan, if asked for. */
  static final int AT_ONCE = 10;

  static final int FROM_STORED = 11;
  static final int FROM_DATABASE = 12;

  private ExitCode() {}
}
