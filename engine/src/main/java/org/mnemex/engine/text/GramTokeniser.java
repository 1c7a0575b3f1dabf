package org.mnemex.engine.text;

/** Every run of a few code points of the text, white space and all. */
final class GramTokeniser implements Tokeniser {
  private final int least;
  private final int most;

  GramTokeniser(int least, int most) {
    this.least = least;
    this.most = most;
  }

  @Override
  public String name() {
    return "ngrams: %d to %d".formatted(least, most);
  }

  /** The longest pieces only, one after the other; a shorter text whole. */
  @Override
  public Tokeniser forQueries() {
    return new Tokeniser() {
      @Override
      public String name() {
        return GramTokeniser.this.name();
      }

      @Override
      public void tokenise(CharSequence text, TokenSink sink) {
        int points = Character.codePointCount(text, 0, text.length());
        int length = Math.min(points, most);
        if (length >= least) {
          new GramTokeniser(length, length).tokenise(text, sink);
        }
      }
    };
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    char[] chars = text.toString().toCharArray();
    Token token = new Token();
    int position = 0;
    for (int at = 0; at < chars.length; ) {
      int end = at;
      for (int length = 1; length <= most && end < chars.length; length++) {
        end += Character.charCount(Character.codePointAt(chars, end));
        if (length >= least) {
          token.set(chars, at, end, position, false);
          sink.accept(token);
        }
      }
      position++;
      at += Character.charCount(Character.codePointAt(chars, at));
    }
  }
}
