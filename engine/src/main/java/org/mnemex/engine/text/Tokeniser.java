package org.mnemex.engine.text;

/** Cuts text into tokens. Implementations are immutable and may be shared between threads. */
public interface Tokeniser {
  /** The name that definitions use. */
  String name();

  /** Pushes the tokens of {@code text} into {@code sink}, in order. */
  void tokenise(CharSequence text, TokenSink sink);
}
