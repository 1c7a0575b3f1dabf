package org.mnemex.engine.query;

import java.util.Map;

/** The number of tolerated typing errors: none below 3 characters, one below 7, else two. */
public final class Edits {
  /** The first character must be right: it usually is, and that keeps the search small. */
  private static final int SAME = 1;

  private static final int ONE_FROM = 3;
  private static final int TWO_FROM = 7;

  private Edits() {}

  /** Edits for a word. */
  public static int of(String word) {
    int length = word.codePointCount(0, word.length());
    return length < ONE_FROM ? 0 : length < TWO_FROM ? 1 : 2;
  }

  /** A word with as many typing errors as its length allows. */
  public static Query word(Map<String, Double> fields, String word, boolean prefix, int most) {
    int edits = of(word);
    return edits == 0 && most == 0
        ? new Query.Word(fields, word, prefix)
        : new Query.Typo(fields, word, edits, SAME, prefix, most);
  }
}
