package org.mnemex.engine.text;

import java.util.Locale;
import java.util.Set;

/**
 * Drops an elided article or pronoun before an apostrophe: {@code l'arbre} becomes {@code arbre}.
 */
final class ElideFilter implements TokenFilter {
  private static final Set<String> ELIDED =
      Set.of(
          "l", "d", "j", "m", "t", "s", "c", "n", "qu", "jusqu", "lorsqu", "puisqu", "quoiqu", "un",
          "all", "dall", "dell", "nell", "sull", "gl", "quest", "quell", "b");

  @Override
  public String name() {
    return "elide";
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new Each(
        (token, output) -> {
          char[] chars = token.chars();
          for (int i = 1; i < Math.min(token.length() - 1, 8); i++) {
            if (isApostrophe(chars[i])) {
              if (ELIDED.contains(new String(chars, 0, i).toLowerCase(Locale.ROOT))) {
                token.dropFront(i + 1);
              }
              break;
            }
          }
          output.accept(token);
        },
        next);
  }

  static boolean isApostrophe(char c) {
    return c == '\'' || c == '’' || c == 'ʼ';
  }
}
