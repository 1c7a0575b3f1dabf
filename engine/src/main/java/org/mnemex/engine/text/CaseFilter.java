package org.mnemex.engine.text;

/** Lower case, code point by code point (simple mappings of the Unicode Character Database). */
final class CaseFilter implements TokenFilter {
  @Override
  public String name() {
    return "lowercase";
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return token -> {
      char[] chars = token.chars();
      for (int i = 0; i < token.length(); i++) {
        char c = chars[i];
        if (c < 0x80) {
          if (c >= 'A' && c <= 'Z') {
            chars[i] = (char) (c + 32);
          }
        } else if (Character.isHighSurrogate(c)
            && i + 1 < token.length()
            && Character.isLowSurrogate(chars[i + 1])) {
          Character.toChars(
              Character.toLowerCase(Character.toCodePoint(c, chars[i + 1])), chars, i);
          i++;
        } else {
          chars[i] = Character.toLowerCase(c);
        }
      }
      token.changed();
      next.accept(token);
    };
  }
}
