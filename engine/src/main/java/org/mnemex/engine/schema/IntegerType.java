package org.mnemex.engine.schema;

/** Whole numbers; they stand for themselves. */
final class IntegerType extends NumberType {
  @Override
  Class<?> valueClass() {
    return Long.class;
  }

  @Override
  long toNumber(Object value, int scale) {
    return (Long) value;
  }

  @Override
  Object fromNumber(long number, int scale) {
    return number;
  }

  @Override
  public Object parse(String text) {
    return Long.valueOf(text);
  }

  /** SQLite gives a whole number in a REAL column as 5.0. */
  @Override
  public Object read(String text) {
    String stripped = text.strip();
    return parse(stripped.endsWith(".0") ? stripped.substring(0, stripped.length() - 2) : stripped);
  }

  @Override
  public String form() {
    return "whole number";
  }

  @Override
  public Literal literal() {
    return Literal.NUMBER;
  }

  @Override
  public String literalForm() {
    return "a whole number";
  }

  @Override
  boolean isSummable() {
    return true;
  }
}
