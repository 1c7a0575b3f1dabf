package org.mnemex.sync.feed;

/** Changes would remove so many documents that a person has to agree first. */
final class RemovalsHeldException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  RemovalsHeldException(String why) {
    super(why);
  }
}
