package org.mnemex.engine.text;

import java.util.Arrays;
import org.jspecify.annotations.Nullable;

/**
 * Words into pieces for the index: every beginning, or every run of a few code points. What is
 * searched for is cut only if it is longer than the longest piece: then all its longest pieces are
 * asked for in one and the same word.
 */
final class PieceFilter implements TokenFilter {
  private final boolean anywhere;
  private final int least;
  private final int most;

  PieceFilter(boolean anywhere, int least, int most) {
    this.anywhere = anywhere;
    this.least = least;
    this.most = most;
  }

  @Override
  public String name() {
    return "%s: %d to %d".formatted(anywhere ? "ngrams" : "prefixes", least, most);
  }

  @Override
  public @Nullable TokenFilter forQueries() {
    return new TokenFilter() {
      @Override
      public String name() {
        return PieceFilter.this.name();
      }

      @Override
      public TokenSink onto(TokenSink next) {
        return new Each(PieceFilter.this::ask, next);
      }
    };
  }

  private void ask(Token token, TokenSink next) {
    char[] chars = Arrays.copyOf(token.chars(), token.length());
    int points = Character.codePointCount(chars, 0, chars.length);
    if (points <= most) {
      next.accept(token);
      return;
    }
    boolean wasJoined = token.isJoined();
    int last = anywhere ? points - most : 0;
    int at = 0;
    for (int piece = 0; piece <= last; piece++) {
      int end = Character.offsetByCodePoints(chars, 0, chars.length, at, most);
      token.text(Arrays.copyOfRange(chars, at, end));
      token.join(piece > 0 || wasJoined);
      next.accept(token);
      at += Character.charCount(Character.codePointAt(chars, at));
    }
    token.join(wasJoined);
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(this::cut, next);
  }

  private void cut(Token token, TokenSink next) {
    char[] chars = Arrays.copyOf(token.chars(), token.length());
    for (int at = 0; at < chars.length && (anywhere || at == 0); ) {
      int end = at;
      for (int length = 1; length <= most && end < chars.length; length++) {
        end += Character.charCount(Character.codePointAt(chars, end));
        if (length >= least) {
          token.text(Arrays.copyOfRange(chars, at, end));
          next.accept(token);
        }
      }
      at += Character.charCount(Character.codePointAt(chars, at));
    }
  }
}
