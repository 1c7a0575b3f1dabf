package org.mnemex.engine.text;

/** Passes on the first tokens of a text only. */
final class LimitFilter implements TokenFilter {
  private final int most;

  LimitFilter(int most) {
    this.most = most;
  }

  @Override
  public String name() {
    return "limit: " + most;
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new TokenSink() {
      private int passed;

      @Override
      public void accept(Token token) {
        if (passed++ < most) {
          next.accept(token);
        }
      }

      @Override
      public void end() {
        passed = 0;
        next.end();
      }
    };
  }
}
