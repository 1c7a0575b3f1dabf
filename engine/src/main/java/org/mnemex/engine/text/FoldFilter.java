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
        (token, output) -> {
          char[] chars = token.chars();
          for (int i = 0; !token.isAscii() && i < token.length(); i++) {
            if (chars[i] >= 0x80) {
              int length = Folding.inPlace(chars, token.length());
              if (length < 0) {
                token.text(Folding.foldAny(token.text()));
              } else {
                token.length(length);
              }
              break;
            }
          }
          if (token.length() > 0) {
            output.accept(token);
          }
        },
        next);
  }
}
