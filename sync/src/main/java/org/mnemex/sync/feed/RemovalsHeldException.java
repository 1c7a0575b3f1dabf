package org.mnemex.sync.feed;

/** Removals need approval, because they are so many. */
final class RemovalsHeldException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  RemovalsHeldException(String why) {
    super(why);
  }
}
