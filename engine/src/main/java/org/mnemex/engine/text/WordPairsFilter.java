package org.mnemex.engine.text;

/** Adds each word together with the next, {@code a b}, beside the words themselves. */
final class WordPairsFilter implements TokenFilter {
  @Override
  public String name() {
    return "word_pairs";
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new TokenSink() {
      private final BufferedTokens waiting = new BufferedTokens();
      private final Token pair = new Token();

      @Override
      public void accept(Token token) {
        if (waiting.size() > 0) {
          flush(token);
        }
        waiting.add(token);
      }

      private void flush(Token following) {
        Token first = waiting.get(0);
        next.accept(first);
        boolean adjacent = following.position() == first.position() + first.span();
        if (adjacent) {
          pair.copyOf(first);
          pair.text(first.text() + " " + following.text());
          pair.place(first.start(), following.end(), first.position());
          pair.span(first.span() + following.span());
          next.accept(pair);
        }
        waiting.drop(1);
      }

      @Override
      public void end() {
        if (waiting.size() > 0) {
          next.accept(waiting.get(0));
          waiting.drop(1);
        }
        next.end();
      }
    };
  }
}
