package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** What each step of an analyser makes of a text. */
public record Analysed(String analyser, List<Step> steps) {
  public record Step(String step, @Nullable String text, List<Token> tokens) {}

  /**
   * A token.
   *
   * @param start offset of its first UTF-16 unit in the text
   * @param end offset behind its last one
   * @param position its place among the words
   */
  public record Token(String text, int start, int end, int position, int span) {}
}
