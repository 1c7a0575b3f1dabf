package org.mnemex.engine.text;

import java.util.function.IntPredicate;

/** Runs of characters of a kind: everything but white space, or letters. */
final class WhereTokeniser implements Tokeniser {
  private final String name;
  private final IntPredicate wanted;

  WhereTokeniser(String name, IntPredicate wanted) {
    this.name = name;
    this.wanted = wanted;
  }

  @Override
  public String name() {
    return name;
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    char[] chars = text.toString().toCharArray();
    Token token = new Token();
    int position = 0;
    int start = -1;
    for (int at = 0; at <= chars.length; ) {
      int point = at == chars.length ? -1 : Character.codePointAt(chars, at);
      boolean in = point >= 0 && wanted.test(point);
      if (in && start < 0) {
        start = at;
      } else if (!in && start >= 0) {
        token.set(chars, start, at, position++, false);
        sink.accept(token);
        start = -1;
      }
      at += point < 0 ? 1 : Character.charCount(point);
    }
  }
}
