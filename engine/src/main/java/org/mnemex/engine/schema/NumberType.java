package org.mnemex.engine.schema;

/**
 * A type of fields whose values are kept as numbers of 64 bits, in the order of the values. Each
 * such type is one class, and one constant of {@link FieldType}.
 */
public abstract class NumberType {
  /** How a value is written in a filter. */
  public enum Literal {
    /** Digits, perhaps with a point: {@code 12.5}. */
    NUMBER,
    /** In quotes: {@code '2026-05-04'}. */
    QUOTED,
    /** As a bare word: {@code TRUE}. */
    WORD
  }

  /** The class of values in documents and queries. */
  abstract Class<?> valueClass();

  /**
   * The number that stands for a value.
   *
   * @param scale digits after the point, for decimals
   * @throws ArithmeticException if the value does not fit
   */
  abstract long toNumber(Object value, int scale);

  /** The value that a number stands for. */
  abstract Object fromNumber(long number, int scale);

  /**
   * The value that a text says, as filters and parameters are written.
   *
   * @throws NumberFormatException if it says none
   * @throws java.time.DateTimeException if it says none
   */
  public abstract Object parse(String text);

  /** The value that a text says, as databases write it, which is more than {@link #parse} takes. */
  public Object read(String text) {
    return parse(text.strip());
  }

  /** What a text has to be, for messages: {@code date like 2026-05-04}. */
  public abstract String form();

  /** How a value is written in a filter. */
  public abstract Literal literal();

  /** What it is compared with in a filter, for messages: {@code a date, DATE '2026-05-04'}. */
  public abstract String literalForm();

  /** Whether a value in a filter may stand after a word of SQL such as {@code DATE}. */
  public boolean takes(String keyword) {
    return false;
  }

  /** Whether values are days or moments: they have an age and buckets of the calendar. */
  boolean isMoment() {
    return false;
  }

  /** Whether values have a sum, and buckets of one width. */
  boolean isSummable() {
    return false;
  }

  /** Of a moment: microseconds since 1970-01-01T00:00Z. */
  long micros(long number) {
    throw new IllegalStateException("not a type of instants");
  }
}
