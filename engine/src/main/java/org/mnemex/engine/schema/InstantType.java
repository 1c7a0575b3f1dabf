package org.mnemex.engine.schema;

import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;

/** Moments; the microseconds since 1970-01-01T00:00Z stand for them. */
final class InstantType extends NumberType {
  @Override
  Class<?> valueClass() {
    return Instant.class;
  }

  @Override
  long toNumber(Object value, int scale) {
    return ChronoUnit.MICROS.between(Instant.EPOCH, (Instant) value);
  }

  @Override
  Object fromNumber(long number, int scale) {
    return Instant.EPOCH.plus(number, ChronoUnit.MICROS);
  }

  /** A moment with its offset; a day alone is its beginning in UTC. */
  @Override
  public Object parse(String text) {
    return text.length() == DateType.ISO_DAY
        ? LocalDate.parse(text).atStartOfDay(ZoneOffset.UTC).toInstant()
        : OffsetDateTime.parse(text).toInstant();
  }

  /** A moment; without an offset it is in UTC. */
  @Override
  public Object read(String text) {
    String iso = text.strip().replace(' ', 'T');
    return iso.length() == DateType.ISO_DAY || iso.matches(".*(Z|[+-]\\d\\d(:?\\d\\d)?)")
        ? parse(iso)
        : LocalDateTime.parse(iso).toInstant(ZoneOffset.UTC);
  }

  @Override
  public String form() {
    return "moment like 2026-05-04T10:00:00Z";
  }

  @Override
  public Literal literal() {
    return Literal.QUOTED;
  }

  @Override
  public String literalForm() {
    return "a moment, TIMESTAMP '2026-05-04T10:00:00Z'";
  }

  @Override
  public boolean takes(String keyword) {
    return keyword.equals("TIMESTAMP") || keyword.equals("DATE");
  }

  @Override
  boolean isMoment() {
    return true;
  }

  @Override
  long micros(long number) {
    return number;
  }
}
