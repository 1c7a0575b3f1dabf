package org.mnemex.engine.text;

import com.google.re2j.Matcher;
import com.google.re2j.Pattern;

/**
 * A regular expression in texts or tokens, replaced. The expressions are those of RE2, which take
 * time in proportion to the text whatever they are.
 */
final class ReplaceFilter implements CharFilter {
  private final Pattern pattern;
  private final String with;

  ReplaceFilter(Pattern pattern, String with) {
    this.pattern = pattern;
    this.with = with;
  }

  @Override
  public String name() {
    return "replace: " + pattern + " → " + with;
  }

  @Override
  public MappedText apply(MappedText text) {
    String from = text.text();
    Matcher matcher = pattern.matcher(from);
    MappedText.Builder out = text.change();
    int at = 0;
    while (matcher.find()) {
      out.keep(at, matcher.start());
      StringBuilder piece = new StringBuilder();
      // Appends what lies before the match as well, which is known already.
      matcher.appendReplacement(piece, with);
      out.replace(matcher.start(), matcher.end(), piece.substring(matcher.start() - at));
      at = matcher.end();
    }
    out.keep(at, from.length());
    return out.build();
  }

  /** The same for every token. */
  TokenFilter onTokens() {
    return TokenFilter.each(
        name(),
        (token, output) -> {
          token.text(pattern.matcher(token.text()).replaceAll(with));
          if (token.length() > 0) {
            output.accept(token);
          }
        });
  }
}
