package org.mnemex.engine.text;

/** Accents, width and ligatures to base letters, see {@link Folding}. */
final class FoldFilter implements TokenFilter {
  @Override
  public String name() {
    return "fold";
  }

  @Override
  public String part(String of) {
    return Folding.fold(of);
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(
        (token, behind) -> {
          char[] chars = token.chars();
          for (int i = 0; !token.isAscii() && i < token.length(); i++) {
            if (chars[i] >= 0x80) {
              token.text(Folding.fold(token.text()));
              break;
            }
          }
          if (token.length() > 0) {
            behind.accept(token);
          }
        },
        next);
  }
}
