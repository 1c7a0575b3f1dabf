package org.mnemex.engine.schema;

import java.time.LocalDate;
import java.time.ZoneOffset;

/** Days; the days since 1970-01-01 stand for them. */
final class DateType extends NumberType {
  /** The length of {@code 2026-05-04}. */
  static final int ISO_DAY = 10;

  private static final long MICROS_PER_SECOND = 1_000_000;

  @Override
  Class<?> valueClass() {
    return LocalDate.class;
  }

  @Override
  long toNumber(Object value, int scale) {
    return ((LocalDate) value).toEpochDay();
  }

  @Override
  Object fromNumber(long number, int scale) {
    return LocalDate.ofEpochDay(number);
  }

  @Override
  public Object parse(String text) {
    return LocalDate.parse(text);
  }

  /** A day, or the day of a moment; the usual form without the cost of a formatter. */
  @Override
  public Object read(String text) {
    String value = text.strip();
    String day = value.length() > ISO_DAY ? value.substring(0, ISO_DAY) : value;
    int year = digits(day, 0, 4);
    int month = digits(day, 5, 7);
    int dayOfMonth = digits(day, 8, 10);
    if (year < 0
        || month < 1
        || month > 12
        || dayOfMonth < 1
        || dayOfMonth > 28
        || day.charAt(4) != '-'
        || day.charAt(7) != '-') {
      return LocalDate.parse(day);
    }
    return LocalDate.of(year, month, dayOfMonth);
  }

  /** The number that some digits say, or -1 if they are none. */
  private static int digits(String text, int from, int to) {
    if (text.length() < to) {
      return -1;
    }
    int number = 0;
    for (int i = from; i < to; i++) {
      int digit = text.charAt(i) - '0';
      if (digit < 0 || digit > 9) {
        return -1;
      }
      number = 10 * number + digit;
    }
    return number;
  }

  @Override
  public String form() {
    return "date like 2026-05-04";
  }

  @Override
  public Literal literal() {
    return Literal.QUOTED;
  }

  @Override
  public String literalForm() {
    return "a date, DATE '2026-05-04'";
  }

  @Override
  public boolean takes(String keyword) {
    return keyword.equals("DATE");
  }

  @Override
  boolean isMoment() {
    return true;
  }

  @Override
  long micros(long number) {
    return LocalDate.ofEpochDay(number).atStartOfDay(ZoneOffset.UTC).toEpochSecond()
        * MICROS_PER_SECOND;
  }
}
