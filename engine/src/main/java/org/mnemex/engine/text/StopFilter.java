package org.mnemex.engine.text;

import java.util.Arrays;
import java.util.Collection;

/**
 * Drops stopwords; their positions stay empty. The list is compared with the token as it is and
 * without accents.
 */
final class StopFilter implements TokenFilter {
  private final String name;
  private final WordSet words;

  StopFilter(String name, Collection<String> words) {
    this.name = name;
    this.words = new WordSet(words);
  }

  @Override
  public String name() {
    return name;
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(
        (token, output) -> {
          boolean stop = words.contains(token.chars(), token.length());
          if (!stop && !token.isAscii() && !isAscii(token)) {
            char[] folded = Arrays.copyOf(token.chars(), token.length());
            int length = Folding.inPlace(folded, folded.length);
            if (length < 0) {
              folded = Folding.foldAny(token.text()).toCharArray();
              length = folded.length;
            }
            stop = words.contains(folded, length);
          }
          if (!stop) {
            output.accept(token);
          }
        },
        next);
  }

  static boolean isAscii(Token token) {
    char[] chars = token.chars();
    for (int i = 0; i < token.length(); i++) {
      if (chars[i] >= 0x80) {
        return false;
      }
    }
    return true;
  }
}
