package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** The result of each step of an analyser. */
public record Analysed(String analyser, List<Step> steps) {
  public record Step(String step, @Nullable String text, List<Token> tokens) {}

  /**
   * A token.
   *
   * @param text the term
   * @param start offset of its first UTF-16 code unit in the original text
   * @param end offset after its last UTF-16 code unit
   * @param position its position among the words, from 0
   * @param span how many positions it covers
   */
  public record Token(String text, int start, int end, int position, int span) {}
}
