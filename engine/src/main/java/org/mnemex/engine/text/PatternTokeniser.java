package org.mnemex.engine.text;

import com.google.re2j.Matcher;
import com.google.re2j.Pattern;

/** What a regular expression of RE2 finds, or what lies between. */
final class PatternTokeniser implements Tokeniser {
  private final Pattern pattern;
  private final boolean between;

  PatternTokeniser(Pattern pattern, boolean between) {
    this.pattern = pattern;
    this.between = between;
  }

  @Override
  public String name() {
    return "pattern: " + (between ? "between " : "") + pattern;
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    char[] chars = text.toString().toCharArray();
    Matcher matcher = pattern.matcher(text);
    Token token = new Token();
    int position = 0;
    int at = 0;
    while (matcher.find()) {
      int start = between ? at : matcher.start();
      int end = between ? matcher.start() : matcher.end();
      at = matcher.end();
      if (start < end) {
        token.set(chars, start, end, position++, false);
        sink.accept(token);
      }
    }
    if (between && at < chars.length) {
      token.set(chars, at, chars.length, position, false);
      sink.accept(token);
    }
  }
}
