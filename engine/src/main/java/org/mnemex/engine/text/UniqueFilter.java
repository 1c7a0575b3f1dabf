package org.mnemex.engine.text;

import java.util.HashSet;
import java.util.Set;

/** Drops a token that stands at the same position already. */
final class UniqueFilter implements TokenFilter {
  @Override
  public String name() {
    return "unique";
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new TokenSink() {
      private final Set<String> here = new HashSet<>();
      private int position = -1;

      @Override
      public void accept(Token token) {
        if (token.position() != position) {
          here.clear();
          position = token.position();
        }
        if (here.add(token.text())) {
          next.accept(token);
        }
      }

      @Override
      public void end() {
        position = -1;
        here.clear();
        next.end();
      }
    };
  }
}
