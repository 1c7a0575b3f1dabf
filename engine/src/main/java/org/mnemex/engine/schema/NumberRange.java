package org.mnemex.engine.schema;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/**
 * Numbers of a field from one to another, both included; none if the first is greater.
 *
 * @param from the least
 * @param to the greatest
 */
public record NumberRange(long from, long to) {
  private static final BigDecimal LEAST = BigDecimal.valueOf(Long.MIN_VALUE);
  private static final BigDecimal GREATEST = BigDecimal.valueOf(Long.MAX_VALUE);
  private static final BigDecimal HALF = new BigDecimal("0.5");
  private static final Instant FIRST = Instant.EPOCH.plus(Long.MIN_VALUE, ChronoUnit.MICROS);
  private static final Instant LAST = Instant.EPOCH.plus(Long.MAX_VALUE, ChronoUnit.MICROS);
  private static final NumberRange NONE = new NumberRange(1, 0);

  /** The numbers between two values; a value finer than the field's scale lies between numbers. */
  public static NumberRange of(
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
  public static long[] exact(Field field, List<Object> values) {
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
    return switch (Objects.requireNonNull(value)) {
      case BigDecimal decimal -> scaled(decimal, field.scale());
      // Farther away than any number of an index.
      case Instant instant when instant.isBefore(FIRST) -> LEAST.subtract(BigDecimal.ONE);
      case Instant instant when instant.isAfter(LAST) -> GREATEST.add(BigDecimal.ONE);
      default -> BigDecimal.valueOf(field.toNumber(value));
    };
  }

  /** The unscaled value; of one that nothing can equal, another that nothing can equal. */
  private static BigDecimal scaled(BigDecimal value, int scale) {
    long digits = value.precision() - (long) value.scale();
    if (digits > Numbers.MAX_DIGITS) {
      return value.signum() < 0 ? LEAST.subtract(BigDecimal.ONE) : GREATEST.add(BigDecimal.ONE);
    }
    if (digits < -Numbers.MAX_DIGITS && value.signum() != 0) {
      return value.signum() < 0 ? HALF.negate() : HALF;
    }
    return value.movePointRight(scale);
  }

  /** Whether there is no number between the two. */
  public boolean isEmpty() {
    return from > to;
  }

  /** Whether {@code sorted} has {@code number}. */
  public static boolean has(long[] sorted, long number) {
    return Arrays.binarySearch(sorted, number) >= 0;
  }
}
