package org.mnemex.engine.schema;

import java.math.BigDecimal;
import java.math.RoundingMode;

/** Decimals; their unscaled values stand for them. */
final class DecimalType extends NumberType {
  /** Of a number that fits into 64 bits. */
  private static final int MAX_DIGITS = 19;

  @Override
  Class<?> valueClass() {
    return BigDecimal.class;
  }

  @Override
  long toNumber(Object value, int scale) {
    BigDecimal decimal = (BigDecimal) value;
    // Rescaling a number like 1E1000000000 would write out all its digits.
    if ((long) decimal.precision() - decimal.scale() > MAX_DIGITS) {
      throw new ArithmeticException("more than " + MAX_DIGITS + " digits before the point");
    }
    return decimal.scale() > MAX_DIGITS + (long) decimal.precision()
        ? 0
        : decimal.setScale(scale, RoundingMode.HALF_EVEN).unscaledValue().longValueExact();
  }

  @Override
  Object fromNumber(long number, int scale) {
    return BigDecimal.valueOf(number, scale);
  }

  @Override
  public Object parse(String text) {
    return Numbers.parse(text);
  }

  @Override
  public String form() {
    return "number";
  }

  @Override
  public Literal literal() {
    return Literal.NUMBER;
  }

  @Override
  public String literalForm() {
    return "a number";
  }

  @Override
  boolean isSummable() {
    return true;
  }
}
