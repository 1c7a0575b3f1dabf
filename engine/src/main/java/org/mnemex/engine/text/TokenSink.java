package org.mnemex.engine.text;

/** Takes tokens one by one, in order of their positions. */
@FunctionalInterface
public interface TokenSink {
  /** Takes a token, which is only valid until this method returns. */
  void accept(Token token);

  /** Notes that the text has no more tokens. */
  default void end() {}
}
