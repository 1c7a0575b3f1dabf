package org.mnemex.engine.search;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.math.RoundingMode;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/**
 * Numbers of a field from one to another, both included; none if the first is greater.
 *
 * @param from the least
 * @param to the greatest
 */
record NumberRange(long from, long to) {
  private static final BigDecimal LEAST = BigDecimal.valueOf(Long.MIN_VALUE);
  private static final BigDecimal GREATEST = BigDecimal.valueOf(Long.MAX_VALUE);
  private static final NumberRange NONE = new NumberRange(1, 0);

  /** The numbers between two values; a value finer than the field's scale lies between numbers. */
  static NumberRange of(
      Field field, @Nullable Object from, boolean withFrom, @Nullable Object to, boolean withTo) {
    BigDecimal low = from == null ? LEAST : number(field, from);
    BigDecimal high = to == null ? GREATEST : number(field, to);
    BigDecimal first = low.setScale(0, RoundingMode.CEILING);
    if (from != null && !withFrom && first.compareTo(low) == 0) {
      first = first.add(BigDecimal.ONE);
    }
    BigDecimal last = high.setScale(0, RoundingMode.FLOOR);
    if (to != null && !withTo && last.compareTo(high) == 0) {
      last = last.subtract(BigDecimal.ONE);
    }
    if (first.compareTo(last) > 0 || first.compareTo(GREATEST) > 0 || last.compareTo(LEAST) < 0) {
      return NONE;
    }
    return new NumberRange(first.max(LEAST).longValueExact(), last.min(GREATEST).longValueExact());
  }

  /** The numbers of those values that the field can have, ascending. */
  static long[] exact(Field field, List<Object> values) {
    return values.stream()
        .map(value -> exact(field, value))
        .filter(OptionalLong::isPresent)
        .mapToLong(OptionalLong::getAsLong)
        .sorted()
        .toArray();
  }

  private static OptionalLong exact(Field field, Object value) {
    BigDecimal number = number(field, value);
    boolean whole = number.stripTrailingZeros().scale() <= 0;
    return whole && number.compareTo(LEAST) >= 0 && number.compareTo(GREATEST) <= 0
        ? OptionalLong.of(number.longValueExact())
        : OptionalLong.empty();
  }

  private static BigDecimal number(Field field, Object value) {
    return field.type() == FieldType.DECIMAL
        ? ((BigDecimal) Objects.requireNonNull(value)).movePointRight(field.scale())
        : new BigDecimal(BigInteger.valueOf(field.toNumber(value)));
  }

  boolean isEmpty() {
    return from > to;
  }

  /** Whether {@code sorted} has {@code number}. */
  static boolean has(long[] sorted, long number) {
    return Arrays.binarySearch(sorted, number) >= 0;
  }
}
