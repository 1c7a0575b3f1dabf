package org.mnemex.engine.text;

/** The whole value as one token. */
final class WholeTokeniser implements Tokeniser {
  @Override
  public String name() {
    return "whole";
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    if (!text.isEmpty()) {
      Token token = new Token();
      token.set(text.toString().toCharArray(), 0, text.length(), 0, false);
      sink.accept(token);
    }
  }
}
