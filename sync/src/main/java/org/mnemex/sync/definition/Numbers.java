package org.mnemex.sync.definition;

import java.math.BigDecimal;

/** Numbers as texts from elsewhere say them. */
public final class Numbers {
  private static final int MAX_DIGITS = 1000;

  private Numbers() {}

  /**
   * The number that a text says.
   *
   * @throws NumberFormatException if it says none, or one that would take more than 1,000 digits to
   *     write out, which costs whoever computes with it as much
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
