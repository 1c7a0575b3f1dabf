package org.mnemex.sync.mariadb;

import com.github.shyiko.mysql.binlog.event.deserialization.ColumnType;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.record.SqlDatabase;

/**
 * Converts values of queries and of the log to one form, so that a key is the same in both.
 * Sessions must be in UTC.
 */
final class MariadbValues {
  /** Types whose values are the same in the log and in queries; others cannot relate rows. */
  private static final Set<String> COMPARABLE =
      Set.of(
          "tinyint",
          "smallint",
          "mediumint",
          "int",
          "bigint",
          "decimal",
          "char",
          "varchar",
          "tinytext",
          "text",
          "mediumtext",
          "longtext",
          "enum",
          "date",
          "datetime",
          "timestamp",
          "year");

  /** Character sets whose Java names differ. */
  private static final Map<String, Charset> CHARSETS =
      Map.ofEntries(
          Map.entry("utf8mb4", StandardCharsets.UTF_8),
          Map.entry("utf8mb3", StandardCharsets.UTF_8),
          Map.entry("utf8", StandardCharsets.UTF_8),
          Map.entry("latin1", Charset.forName("windows-1252")),
          Map.entry("latin2", Charset.forName("ISO-8859-2")),
          Map.entry("latin5", Charset.forName("ISO-8859-9")),
          Map.entry("latin7", Charset.forName("ISO-8859-13")),
          Map.entry("greek", Charset.forName("ISO-8859-7")),
          Map.entry("hebrew", Charset.forName("ISO-8859-8")),
          Map.entry("ascii", StandardCharsets.US_ASCII),
          Map.entry("ucs2", StandardCharsets.UTF_16BE),
          Map.entry("utf16", StandardCharsets.UTF_16BE),
          Map.entry("utf16le", StandardCharsets.UTF_16LE),
          Map.entry("utf32", Charset.forName("UTF-32BE")),
          Map.entry("ujis", Charset.forName("EUC-JP")),
          Map.entry("sjis", Charset.forName("Shift_JIS")),
          Map.entry("cp932", Charset.forName("windows-31j")),
          Map.entry("euckr", Charset.forName("EUC-KR")),
          Map.entry("koi8r", Charset.forName("KOI8-R")),
          Map.entry("koi8u", Charset.forName("KOI8-U")),
          Map.entry("cp1250", Charset.forName("windows-1250")),
          Map.entry("cp1251", Charset.forName("windows-1251")),
          Map.entry("cp1256", Charset.forName("windows-1256")),
          Map.entry("cp1257", Charset.forName("windows-1257")),
          Map.entry("cp850", Charset.forName("IBM850")),
          Map.entry("cp852", Charset.forName("IBM852")),
          Map.entry("cp866", Charset.forName("IBM866")),
          Map.entry("gb2312", Charset.forName("GB2312")),
          Map.entry("gbk", Charset.forName("GBK")),
          Map.entry("big5", Charset.forName("Big5")),
          Map.entry("tis620", Charset.forName("TIS-620")));

  private static final DateTimeFormatter MOMENT =
      DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss.SSSSSS", Locale.ROOT);
  private static final long MICROS = 1_000_000;

  /** The log's value for a day like {@code 0000-00-00}. */
  static final long NO_DAY = Long.MIN_VALUE;

  private MariadbValues() {}

  /** Whether a column of this type can be a key or relate rows. */
  static boolean isComparable(String dataType) {
    return COMPARABLE.contains(dataType);
  }

  /** The character set of that name, or null. */
  static @Nullable Charset charset(String name) {
    return CHARSETS.get(name);
  }

  /**
   * @param precision the number of bits
   */
  static SqlDatabase.ValueReader reader(int type, String name, int precision) {
    if (name.equals("BIT") && precision > 1) {
      return (rows, column) -> {
        byte[] bits = rows.getBytes(column);
        return bits == null ? null : whole(new BigInteger(1, bits).toString());
      };
    }
    return switch (type) {
      case Types.TINYINT, Types.SMALLINT, Types.INTEGER, Types.BIGINT ->
          (rows, column) -> {
            String text = rows.getString(column);
            return text == null ? null : whole(text);
          };
      case Types.BINARY, Types.VARBINARY, Types.LONGVARBINARY, Types.BLOB -> ResultSet::getBytes;
      case Types.BIT, Types.BOOLEAN ->
          (rows, column) -> {
            boolean value = rows.getBoolean(column);
            return rows.wasNull() ? null : (Object) value;
          };
      case Types.TIMESTAMP ->
          (rows, column) -> {
            boolean utc = name.equals("TIMESTAMP");
            LocalDateTime time = time(rows, column);
            if (time != null) {
              return moment(MOMENT.format(time), utc);
            }
            String noDay = rows.getString(column);
            return noDay == null ? null : moment(noDay, utc);
          };
      default -> ResultSet::getString;
    };
  }

  /**
   * A time, unless its day is incomplete, like {@code 2026-00-10}. The driver's own text of a time
   * has passed through the time zone of this process, which skips some.
   */
  private static @Nullable LocalDateTime time(ResultSet rows, int column) throws SQLException {
    try {
      return rows.getObject(column, LocalDateTime.class);
    } catch (DateTimeException e) {
      return null;
    }
  }

  /**
   * A moment in a canonical form, whatever its decimals.
   *
   * @param utc whether it is in UTC; otherwise it has no zone
   */
  private static String moment(String text, boolean utc) {
    int end = text.length();
    if (text.indexOf('.') > 0) {
      while (text.charAt(end - 1) == '0') {
        end--;
      }
      if (text.charAt(end - 1) == '.') {
        end--;
      }
    }
    String shortest = text.substring(0, end);
    return utc ? shortest.replace(' ', 'T') + "Z" : shortest;
  }

  private static Object whole(String text) {
    try {
      return Long.valueOf(text);
    } catch (NumberFormatException e) {
      // Unsigned and larger than a long.
      return text;
    }
  }

  /**
   * A value that was cast to text; a timestamp is seconds since 1970.
   *
   * @param type the column's type in the catalogue
   */
  static Object ofText(String type, String text) {
    return switch (type.split("[ (]", 2)[0]) {
      case "tinyint", "smallint", "mediumint", "int", "bigint" -> whole(text);
      case "datetime" -> moment(text, false);
      case "timestamp" -> {
        long micros = new BigDecimal(text).movePointRight(6).longValue();
        yield Objects.requireNonNull(LogColumn.moment(micros, true));
      }
      default -> text;
    };
  }

  /**
   * A value of the log.
   *
   * @param type as in the table map, with CHAR and ENUM distinguished
   * @param unsigned whether a number is unsigned
   * @param charset of a text
   * @param words of an enumeration
   */
  record LogColumn(
      String name,
      ColumnType type,
      boolean unsigned,
      @Nullable Charset charset,
      String @Nullable [] words) {
    /** The value as a query returns it, or null if unknown. */
    @Nullable Object value(Object logged) {
      return switch (type) {
        case TINY -> unsigned ? ((Integer) logged & 0xFFL) : ((Integer) logged).longValue();
        case SHORT -> unsigned ? ((Integer) logged & 0xFFFFL) : ((Integer) logged).longValue();
        case INT24 -> unsigned ? ((Integer) logged & 0xFFFFFFL) : ((Integer) logged).longValue();
        case LONG -> unsigned ? ((Integer) logged & 0xFFFFFFFFL) : ((Integer) logged).longValue();
        case LONGLONG ->
            unsigned && (Long) logged < 0 ? Long.toUnsignedString((Long) logged) : logged;
        case NEWDECIMAL -> ((BigDecimal) logged).toPlainString();
        // A query returns a year as text, which compares equal to the number.
        case YEAR -> logged.toString();
        case STRING, VARCHAR, VAR_STRING, BLOB, TINY_BLOB, MEDIUM_BLOB, LONG_BLOB ->
            charset == null ? null : new String((byte[]) logged, charset);
        case ENUM -> word((Integer) logged);
        case DATE -> day((Long) logged);
        case DATETIME, DATETIME_V2 -> moment((Long) logged, false);
        case TIMESTAMP, TIMESTAMP_V2 -> moment((Long) logged, true);
        default -> null;
      };
    }

    private @Nullable String word(int number) {
      String @Nullable [] all = words;
      return all == null || number > all.length ? null : number == 0 ? "" : all[number - 1];
    }

    private static @Nullable String moment(long micros, boolean utc) {
      if (micros == NO_DAY) {
        return null;
      }
      LocalDateTime time =
          LocalDateTime.ofEpochSecond(
              Math.floorDiv(micros, MICROS),
              (int) TimeUnit.MICROSECONDS.toNanos(Math.floorMod(micros, MICROS)),
              ZoneOffset.UTC);
      return MariadbValues.moment(MOMENT.format(time), utc);
    }

    private static @Nullable String day(long micros) {
      return micros == NO_DAY
          ? null
          : Instant.ofEpochSecond(Math.floorDiv(micros, MICROS))
              .atZone(ZoneOffset.UTC)
              .toLocalDate()
              .toString();
    }
  }
}
