package org.mnemex.engine.text;

/**
 * A token that may be kept.
 *
 * @param text the term
 * @param start offset of its first UTF-16 code unit in the original text
 * @param end offset after its last UTF-16 code unit
 * @param position its position among the words, from 0
 * @param span how many positions it covers
 * @param joined whether a query asks for it together with the token before it, at the same position
 */
public record AnalysedToken(
    String text, int start, int end, int position, int span, boolean joined) {
  /** A token by itself. */
  public AnalysedToken(String text, int start, int end, int position, int span) {
    this(text, start, end, position, span, false);
  }

  static AnalysedToken of(Token token) {
    return new AnalysedToken(
        token.text(), token.start(), token.end(), token.position(), token.span(), token.isJoined());
  }
}
