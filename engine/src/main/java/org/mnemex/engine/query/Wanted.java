package org.mnemex.engine.query;

/**
 * How many of several words must match. Words that a field drops are not counted.
 *
 * @param count a number of words; 0 if a share is given
 * @param share a share of the words, above 0 and up to 1, rounded down but at least one word
 */
public record Wanted(int count, double share) {
  /** All of them. */
  public static final Wanted ALL = new Wanted(0, 1);

  /** Any of them. */
  public static final Wanted ANY = new Wanted(1, 1);

  public Wanted {
    if (count < 0 || !(share > 0) || share > 1) {
      throw new IllegalArgumentException("a count from 0 and a share up to 1 are wanted");
    }
  }

  /** The number of required words among a number of words. */
  public int of(int words) {
    // A share such as 0.07 is not exact in binary.
    return count > 0 ? Math.min(count, words) : Math.max(1, (int) Math.floor(share * words + 1e-9));
  }
}
