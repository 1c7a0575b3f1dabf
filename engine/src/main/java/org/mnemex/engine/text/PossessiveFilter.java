package org.mnemex.engine.text;

/** Drops the English possessive: {@code fern's} becomes {@code fern}. */
final class PossessiveFilter implements TokenFilter {
  @Override
  public String name() {
    return "possessive";
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(
        (token, output) -> {
          int length = token.length();
          char[] chars = token.chars();
          if (length > 2
              && (chars[length - 1] == 's' || chars[length - 1] == 'S')
              && ElideFilter.isApostrophe(chars[length - 2])) {
            token.length(length - 2);
          }
          output.accept(token);
        },
        next);
  }
}
