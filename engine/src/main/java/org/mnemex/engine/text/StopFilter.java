package org.mnemex.engine.text;

import java.util.Set;

/** Drops words that tell nothing. Their positions stay empty. */
final class StopFilter implements TokenFilter {
  private final String name;
  private final Set<String> words;

  StopFilter(String name, Set<String> words) {
    this.name = name;
    this.words = Set.copyOf(words);
  }

  @Override
  public String name() {
    return name;
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return token -> {
      if (!words.contains(token.text())) {
        next.accept(token);
      }
    };
  }
}
