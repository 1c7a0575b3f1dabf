package org.mnemex.engine.schema;

import java.time.LocalDate;
import java.util.Locale;

/**
 * The type of a field's values. In documents a text or exact value is a {@code String}, an integer
 * a {@code Long}, a date a {@code LocalDate}, a boolean a {@code Boolean}.
 */
public enum FieldType {
  TEXT(String.class),
  EXACT(String.class),
  INTEGER(Long.class),
  DATE(LocalDate.class),
  BOOLEAN(Boolean.class);

  private final Class<?> valueClass;

  FieldType(Class<?> valueClass) {
    this.valueClass = valueClass;
  }

  /** The class of this type's values in documents and queries. */
  public Class<?> valueClass() {
    return valueClass;
  }

  /** Whether values are kept as numbers. */
  public boolean isNumeric() {
    return this == INTEGER || this == DATE || this == BOOLEAN;
  }

  /** The number that stands for a value: itself, days since 1970-01-01, or 0 and 1. */
  public long toNumber(Object value) {
    return switch (this) {
      case INTEGER -> (Long) value;
      case DATE -> ((LocalDate) value).toEpochDay();
      case BOOLEAN -> (Boolean) value ? 1 : 0;
      case TEXT, EXACT -> throw new IllegalArgumentException(this + " values are not numbers");
    };
  }

  /** The value that a number of {@link #toNumber} stands for. */
  public Object fromNumber(long number) {
    return switch (this) {
      case INTEGER -> number;
      case DATE -> LocalDate.ofEpochDay(number);
      case BOOLEAN -> number != 0;
      case TEXT, EXACT -> throw new IllegalArgumentException(this + " values are not numbers");
    };
  }

  /** The name in definitions. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
