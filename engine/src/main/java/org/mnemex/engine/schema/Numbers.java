package org.mnemex.engine.schema;

import java.math.BigDecimal;

/** Parses numbers from untrusted texts. */
public final class Numbers {
  /** Of a number that is written out. */
  public static final int MAX_DIGITS = 1000;

  private Numbers() {}

  /**
   * The number in a text.
   *
   * @throws NumberFormatException if the text is not a number, or is one of more than 1,000 digits
   *     when written out, which would make computing with it expensive
   */
  public static BigDecimal parse(String text) {
    BigDecimal number = text.length() > MAX_DIGITS ? null : new BigDecimal(text);
    if (number == null
        || Math.abs((long) number.scale()) > MAX_DIGITS
        || number.precision() - (long) number.scale() > MAX_DIGITS) {
      throw new NumberFormatException("the number has more than %,d digits".formatted(MAX_DIGITS));
    }
    return number;
  }
}
