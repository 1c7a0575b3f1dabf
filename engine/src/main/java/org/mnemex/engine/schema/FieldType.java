package org.mnemex.engine.schema;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.Locale;

/**
 * The type of a field's values, with the class that a value has in documents and queries.
 *
 * <p>Decimals are kept with the scale that the field declares, instants to the microsecond, places
 * to 1e-7 of a degree (about a centimetre).
 */
public enum FieldType {
  TEXT(String.class),
  EXACT(String.class),
  INTEGER(Long.class),
  DECIMAL(BigDecimal.class),
  DATE(LocalDate.class),
  INSTANT(Instant.class),
  BOOLEAN(Boolean.class),
  PLACE(Place.class),
  PATH(String.class),
  GROUP(GroupRow.class);

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
    return switch (this) {
      case INTEGER, DECIMAL, DATE, INSTANT, BOOLEAN -> true;
      case TEXT, EXACT, PLACE, PATH, GROUP -> false;
    };
  }

  /** Whether values are whole strings with places in a dictionary: exact ones and paths. */
  public boolean isOrdinal() {
    return this == EXACT || this == PATH;
  }

  /** The name in definitions. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
