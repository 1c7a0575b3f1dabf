package org.mnemex.engine.text;

/** Every ancestor of a path: {@code a/b/c} gives {@code a}, {@code a/b}, {@code a/b/c}. */
final class PathTokeniser implements Tokeniser {
  private final char separator;

  PathTokeniser(char separator) {
    this.separator = separator;
  }

  @Override
  public String name() {
    return separator == '/' ? "path" : "path: " + separator;
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    char[] chars = text.toString().toCharArray();
    int start = 0;
    while (start < chars.length && chars[start] == separator) {
      start++;
    }
    Token token = new Token();
    for (int at = start; at <= chars.length; at++) {
      boolean ends = at == chars.length || chars[at] == separator;
      if (ends && at > start && chars[at - 1] != separator) {
        token.set(chars, start, at, 0, false);
        sink.accept(token);
      }
    }
  }
}
