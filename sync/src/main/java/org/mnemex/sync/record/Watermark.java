package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Catalogue;

/**
 * A column with the time of a row's last change.
 *
 * @param key the table's primary key
 * @param form the form of its times
 */
record Watermark(String table, String column, List<String> key, Form form) {
  private static final int DAY_LENGTH = 10;
  private static final DateTimeFormatter SPACED =
      DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss.SSSSSS", Locale.ROOT);

  /** The most digits of a number of seconds since 1970. */
  private static final long MAX_SECONDS = 100_000_000_000L;

  /** The form of a column's times. */
  enum Form {
    /** A time type with a zone; our sessions are in UTC. */
    UTC,
    /** A time type without a zone. */
    LOCAL,
    /** Probably text; there is no value yet to tell. */
    UNKNOWN_TEXT,
    /** A text like {@code 2026-05-04 10:00:00}. */
    TEXT,
    /** A text like {@code 2026-05-04T10:00:00}. */
    ISO_TEXT,
    SECONDS,
    MILLIS
  }

  /**
   * Inspects a column.
   *
   * @throws SQLException if the table has no such column, or it has no times
   */
  static Watermark of(Connection connection, SqlDatabase database, String table, String column)
      throws SQLException {
    Catalogue.Table found = database.catalogue(connection).table(table);
    Catalogue.Column typed = found == null ? null : found.column(column);
    Form form = typed == null ? null : form(connection, database, table, column, typed.type());
    if (found == null || form == null || found.key().isEmpty()) {
      throw new SQLException(
          "'%s.%s' is not a watermark: it must be a time, in a table with a primary key"
              .formatted(table, column));
    }
    return new Watermark(table, column, found.key(), form);
  }

  /** The form of times in columns of a type; null if it has none. */
  static @Nullable Form form(
      Connection connection, SqlDatabase database, String table, String column, String typeName)
      throws SQLException {
    String type = typeName.toLowerCase(Locale.ROOT);
    return switch (database.timeType(type)) {
      case UTC -> Form.UTC;
      case LOCAL -> Form.LOCAL;
      case UNTYPED -> sample(connection, database, table, column);
      case NONE -> null;
    };
  }

  /** Without a type for times, values decide. */
  private static @Nullable Form sample(
      Connection connection, SqlDatabase database, String table, String column)
      throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT max(%s) FROM %s"
                    .formatted(database.sql().name(column), database.sql().name(table)))) {
      String text = rows.next() ? rows.getString(1) : null;
      if (text == null) {
        return Form.UNKNOWN_TEXT;
      }
      if (text.matches("-?\\d+(\\.\\d+)?")) {
        return Double.parseDouble(text) > MAX_SECONDS ? Form.MILLIS : Form.SECONDS;
      }
      return !text.matches("\\d{4}-\\d\\d-\\d\\d.*")
          ? null
          : text.indexOf('T') > 0 ? Form.ISO_TEXT : Form.TEXT;
    }
  }

  /** Whether its form is still unknown. */
  boolean isGuess() {
    return form == Form.UNKNOWN_TEXT;
  }

  boolean isNumber() {
    return form == Form.SECONDS || form == Form.MILLIS;
  }

  /**
   * Selects rows from a moment on in the order of the watermark and key: the watermark, the key,
   * the watched columns. Parameters are {@link #parameter}, and those of the row to go on after.
   */
  String select(Sql sql, List<String> watched, boolean continued, int limit) {
    List<String> order = new ArrayList<>();
    order.add(sql.name(column));
    key.forEach(part -> order.add(sql.name(part)));
    List<String> selected = new ArrayList<>(order);
    watched.forEach(part -> selected.add(sql.name(part)));
    return "SELECT %s FROM %s WHERE %s >= ?%s ORDER BY %s LIMIT %d"
        .formatted(
            Sql.list(selected),
            sql.name(table),
            sql.name(column),
            continued ? " AND " + sql.after(order) : "",
            Sql.list(order),
            limit);
  }

  /**
   * A moment in this column's form.
   *
   * @param micros since 1970
   */
  Object parameter(long micros, ZoneId zone) {
    Instant instant = Instant.EPOCH.plus(micros, ChronoUnit.MICROS);
    LocalDateTime local =
        LocalDateTime.ofInstant(instant, form == Form.UTC ? ZoneOffset.UTC : zone);
    return switch (form) {
      case UTC, LOCAL, TEXT, UNKNOWN_TEXT -> SPACED.format(local);
      case ISO_TEXT -> SPACED.format(local).replace(' ', 'T');
      case SECONDS -> Math.floorDiv(micros, 1_000_000);
      case MILLIS -> Math.floorDiv(micros, 1000);
    };
  }

  /** The moment of a value; 1970 if it has none. */
  Instant instant(String value, ZoneId zone) {
    try {
      if (isNumber()) {
        double number = Double.parseDouble(value);
        return Instant.ofEpochMilli((long) (form == Form.SECONDS ? number * 1000 : number));
      }
      String iso = value.replace(' ', 'T');
      if (iso.length() == DAY_LENGTH) {
        return LocalDate.parse(iso).atStartOfDay(zone).toInstant();
      }
      if (iso.matches(".*[+-]\\d\\d")) {
        iso += ":00";
      }
      if (iso.matches(".*(Z|[+-]\\d\\d:\\d\\d)")) {
        return OffsetDateTime.parse(iso).toInstant();
      }
      return LocalDateTime.parse(iso).atZone(form == Form.UTC ? ZoneOffset.UTC : zone).toInstant();
    } catch (DateTimeException | NumberFormatException e) {
      return Instant.EPOCH;
    }
  }
}
