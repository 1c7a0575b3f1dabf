package org.mnemex.engine.schema;

import java.util.Locale;

/** True and false; 1 and 0 stand for them. */
final class BooleanType extends NumberType {
  @Override
  Class<?> valueClass() {
    return Boolean.class;
  }

  @Override
  long toNumber(Object value, int scale) {
    return (Boolean) value ? 1 : 0;
  }

  @Override
  Object fromNumber(long number, int scale) {
    return number != 0;
  }

  @Override
  public Object parse(String text) {
    return switch (text.toLowerCase(Locale.ROOT)) {
      case "true" -> true;
      case "false" -> false;
      default -> throw new NumberFormatException(text);
    };
  }

  @Override
  public Object read(String text) {
    return switch (text.strip().toLowerCase(Locale.ROOT)) {
      case "1", "true", "t", "yes" -> true;
      case "0", "false", "f", "no" -> false;
      default -> throw new NumberFormatException(text);
    };
  }

  @Override
  public String form() {
    return "boolean";
  }

  @Override
  public Literal literal() {
    return Literal.WORD;
  }

  @Override
  public String literalForm() {
    return "TRUE or FALSE";
  }
}
