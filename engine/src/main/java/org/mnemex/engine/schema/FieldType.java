package org.mnemex.engine.schema;

import java.util.Locale;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * The type of a field's values, with the class that a value has in documents and queries.
 *
 * <p>Decimals are kept with the scale that the field declares, instants to the microsecond, places
 * to 1e-7 of a degree (about a centimetre).
 */
public enum FieldType {
  TEXT(String.class, Storage.TEXT),
  EXACT(String.class, Storage.ORDINALS),
  INTEGER(new IntegerType()),
  DECIMAL(new DecimalType()),
  DATE(new DateType()),
  INSTANT(new InstantType()),
  BOOLEAN(new BooleanType()),
  PLACE(Place.class, Storage.PLACES),
  PATH(String.class, Storage.ORDINALS),
  GROUP(GroupRow.class, Storage.ROWS);

  /** How the values of a type are kept in a segment. */
  public enum Storage {
    /** Terms with postings. */
    TEXT,
    /** Whole strings, with places in a dictionary. */
    ORDINALS,
    /** Numbers of 64 bits. */
    NUMBERS,
    /** Pairs of degrees. */
    PLACES,
    /** Rows with fields of their own. */
    ROWS
  }

  private final Class<?> valueClass;
  private final Storage storage;

  @SuppressWarnings("ImmutableEnumChecker") // A type of numbers has no state.
  private final @Nullable NumberType numbers;

  FieldType(Class<?> valueClass, Storage storage) {
    this.valueClass = valueClass;
    this.storage = storage;
    this.numbers = null;
  }

  FieldType(NumberType numbers) {
    this.valueClass = numbers.valueClass();
    this.storage = Storage.NUMBERS;
    this.numbers = numbers;
  }

  /** The class of this type's values in documents and queries. */
  public Class<?> valueClass() {
    return valueClass;
  }

  /** How values are kept. */
  public Storage storage() {
    return storage;
  }

  /** Whether values are kept as numbers. */
  public boolean isNumeric() {
    return numbers != null;
  }

  /**
   * How values are numbers.
   *
   * @throws IllegalArgumentException if they are none
   */
  public NumberType numbers() {
    if (numbers == null) {
      throw new IllegalArgumentException(this + " values are not numbers");
    }
    return Objects.requireNonNull(numbers);
  }

  /** Whether values are whole strings with places in a dictionary: exact ones and paths. */
  public boolean isOrdinal() {
    return storage == Storage.ORDINALS;
  }

  /** Whether values are days or moments. */
  public boolean isMoment() {
    return numbers != null && numbers.isMoment();
  }

  /** Whether values have a sum. */
  public boolean isSummable() {
    return numbers != null && numbers.isSummable();
  }

  /** The name in definitions. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /**
   * The value that a text says, as filters and parameters are written.
   *
   * @throws NumberFormatException if it says none, or values are not written as one text
   * @throws java.time.DateTimeException if it says none
   */
  public Object parse(String text) {
    return switch (storage) {
      case TEXT, ORDINALS -> text;
      case NUMBERS -> numbers().parse(text);
      case PLACES, ROWS -> throw new NumberFormatException(text);
    };
  }
}
