package org.mnemex.engine.text;

/** Cuts a text into tokens. Implementations are immutable and may be used by several threads. */
public interface Tokeniser {
  /** The name that definitions use, with its option if it has one. */
  String name();

  /** Pushes the tokens of {@code text}, in order; does not end the sink. */
  void tokenise(CharSequence text, TokenSink sink);

  /** What cuts the texts that are searched for. */
  default Tokeniser forQueries() {
    return this;
  }
}
