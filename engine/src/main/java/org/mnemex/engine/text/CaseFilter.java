package org.mnemex.engine.text;

/**
 * Lower case, code point by code point (simple mappings of the Unicode Character Database), with
 * what some languages do otherwise: Turkish and Azeri have a dotless i, Greek writes sigma in one
 * way inside a word and in another at its end.
 */
final class CaseFilter implements TokenFilter {
  /** Languages with rules of their own. */
  enum Language {
    NONE,
    TURKISH,
    GREEK
  }

  private final Language language;

  CaseFilter(Language language) {
    this.language = language;
  }

  @Override
  public String name() {
    return language == Language.NONE
        ? "lowercase"
        : "lowercase: " + language.name().toLowerCase(java.util.Locale.ROOT);
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(this::lower, next);
  }

  private void lower(Token token, TokenSink next) {
    char[] chars = token.chars();
    int length = token.length();
    boolean changed = false;
    for (int i = 0; i < length; i++) {
      char c = chars[i];
      char lower = c;
      if (c < 0x80) {
        if (c >= 'A' && c <= 'Z') {
          lower = c == 'I' && language == Language.TURKISH ? 'ı' : (char) (c + 32);
        }
      } else if (Character.isHighSurrogate(c)
          && i + 1 < length
          && Character.isLowSurrogate(chars[i + 1])) {
        Character.toChars(Character.toLowerCase(Character.toCodePoint(c, chars[i + 1])), chars, i);
        i++;
        changed = true;
        continue;
      } else {
        lower = lower(c);
      }
      if (lower != c) {
        chars[i] = lower;
        changed = true;
      }
    }
    if (changed) {
      token.changed(language != Language.TURKISH);
    }
    next.accept(token);
  }

  @Override
  public String part(String of) {
    StringBuilder out = new StringBuilder();
    Token token = new Token();
    token.set(of.toCharArray(), 0, of.length(), 0, false);
    lower(token, lowered -> out.append(lowered.text()));
    return out.toString();
  }

  private char lower(char c) {
    if (language == Language.TURKISH && c == 'İ') {
      return 'i';
    }
    if (language == Language.GREEK && c == 'ς') {
      return 'σ';
    }
    return Character.toLowerCase(c);
  }
}
