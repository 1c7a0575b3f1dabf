package org.mnemex.engine.codec;

/**
 * The length of a text in one byte: exact below 64 words, above that 16 steps for every doubling,
 * rounded down, up to 253,952 words. Scores use the decoded length, so that a document scores the
 * same however it is evaluated.
 */
public final class LengthCode {
  /** Number of codes. */
  public static final int CODES = 256;

  private static final int EXACT = 64;
  private static final int[] LENGTHS = new int[CODES];

  static {
    for (int code = 0; code < CODES; code++) {
      int above = code - EXACT;
      LENGTHS[code] = above < 0 ? code : (16 + (above & 15)) << (above / 16 + 2);
    }
  }

  private LengthCode() {}

  /** The code of a length, 0 to 255. */
  public static int of(int length) {
    if (length < EXACT) {
      return length;
    }
    int exponent = 31 - Integer.numberOfLeadingZeros(length);
    int mantissa = length >>> exponent - 4 & 15;
    return Math.min(CODES - 1, EXACT + (exponent - 6) * 16 + mantissa);
  }

  /** The length that a code stands for. */
  public static int length(int code) {
    return LENGTHS[code];
  }
}
