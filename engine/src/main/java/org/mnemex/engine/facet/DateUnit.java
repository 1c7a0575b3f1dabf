package org.mnemex.engine.facet;

import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.temporal.IsoFields;
import java.time.temporal.TemporalAdjusters;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.schema.FieldType;

/**
 * A unit of the ISO 8601 calendar. A bucket is named as the standard writes it: {@code 2026},
 * {@code 2026-Q2} (an addition of ours), {@code 2026-05}, {@code 2026-W19}, {@code 2026-05-04},
 * {@code 2026-05-04T13}.
 */
public enum DateUnit {
  YEAR,
  QUARTER,
  MONTH,
  WEEK,
  DAY,
  HOUR;

  /** The first day of the bucket that a day is in. */
  private LocalDate floor(LocalDate day) {
    return switch (this) {
      case YEAR -> day.withDayOfYear(1);
      case QUARTER -> day.withDayOfMonth(1).withMonth((day.getMonthValue() - 1) / 3 * 3 + 1);
      case MONTH -> day.withDayOfMonth(1);
      case WEEK ->
          day.isBefore(LocalDate.MIN.plusDays(7))
              ? LocalDate.MIN
              : day.with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY));
      case DAY, HOUR -> day;
    };
  }

  /** The beginning of the bucket that a date or an instant is in. */
  LocalDateTime floor(Object value, ZoneId zone) {
    if (value instanceof LocalDate day) {
      return floor(day).atStartOfDay();
    }
    ZonedDateTime there = ((Instant) value).atZone(zone);
    return floor(there.toLocalDate()).atTime(this == HOUR ? there.getHour() : 0, 0);
  }

  /** The beginning of the next bucket. */
  LocalDateTime next(LocalDateTime start) {
    return switch (this) {
      case YEAR -> start.plusYears(1);
      case QUARTER -> start.plusMonths(3);
      case MONTH -> start.plusMonths(1);
      case WEEK -> start.plusWeeks(1);
      case DAY -> start.plusDays(1);
      case HOUR -> start.plusHours(1);
    };
  }

  private String text(LocalDateTime start) {
    LocalDate day = start.toLocalDate();
    return switch (this) {
      case YEAR -> "%04d".formatted(day.getYear());
      case QUARTER -> "%04d-Q%d".formatted(day.getYear(), day.getMonthValue() / 3 + 1);
      case MONTH -> "%04d-%02d".formatted(day.getYear(), day.getMonthValue());
      case WEEK ->
          "%04d-W%02d"
              .formatted(
                  day.get(IsoFields.WEEK_BASED_YEAR), day.get(IsoFields.WEEK_OF_WEEK_BASED_YEAR));
      case DAY -> day.toString();
      case HOUR -> day + "T%02d".formatted(start.getHour());
    };
  }

  /** The bucket that begins at {@code start}, as an interval of a field's values. */
  Interval interval(LocalDateTime start, FieldType type, ZoneId zone) {
    return new Interval(text(start), value(start, type, zone), end(start, type, zone));
  }

  /** Null where the bucket exceeds the range of times. */
  private @Nullable Object end(LocalDateTime start, FieldType type, ZoneId zone) {
    try {
      return value(next(start), type, zone);
    } catch (DateTimeException e) {
      return null;
    }
  }

  private static Object value(LocalDateTime moment, FieldType type, ZoneId zone) {
    return type == FieldType.DATE ? moment.toLocalDate() : (Object) moment.atZone(zone).toInstant();
  }

  /**
   * The bucket of that name.
   *
   * @throws QueryRefusedException if the name is not one of this unit
   */
  public Interval interval(String text, FieldType type, ZoneId zone) {
    try {
      LocalDateTime start =
          switch (this) {
            case YEAR -> LocalDate.of(Integer.parseInt(text), 1, 1).atStartOfDay();
            case QUARTER -> {
              String[] parts = text.split("-Q", 2);
              yield LocalDate.of(Integer.parseInt(parts[0]), 3 * Integer.parseInt(parts[1]) - 2, 1)
                  .atStartOfDay();
            }
            case MONTH -> LocalDate.parse(text + "-01").atStartOfDay();
            case WEEK -> {
              String[] parts = text.split("-W", 2);
              yield LocalDate.of(Integer.parseInt(parts[0]), 1, 4)
                  .with(IsoFields.WEEK_OF_WEEK_BASED_YEAR, Integer.parseInt(parts[1]))
                  .with(DayOfWeek.MONDAY)
                  .atStartOfDay();
            }
            case DAY -> LocalDate.parse(text).atStartOfDay();
            case HOUR -> LocalDateTime.parse(text + ":00");
          };
      return interval(
          floor(start.toLocalDate()).atTime(this == HOUR ? start.getHour() : 0, 0), type, zone);
    } catch (DateTimeException | NumberFormatException | ArrayIndexOutOfBoundsException e) {
      throw new QueryRefusedException(
          "'%s' is not a %s; write it like %s"
              .formatted(
                  text,
                  word(),
                  text(floor(LocalDate.of(2026, 5, 4)).atTime(this == HOUR ? 13 : 0, 0))),
          e);
    }
  }

  /** The name in definitions. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
