package org.mnemex.service.install;

/** An index cannot run, because its source does not. */
final class SourceStoppedException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  /**
   * @param why why the source is not running
   */
  SourceStoppedException(String source, String why) {
    super("its source '%s' is not running: %s".formatted(source, why));
  }
}
