package org.mnemex.sync.postgres;

import java.math.BigDecimal;
import java.sql.Array;
import java.sql.ResultSet;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.mnemex.sync.record.SqlDatabase;

/**
 * Converts values of queries and of the log to one form. Both come from PostgreSQL's text form, so
 * a key is the same in both. Sessions must be in UTC.
 */
final class PostgresValues {
  private static final Map<Integer, String> TYPES =
      Map.of(16, "bool", 20, "int8", 21, "int2", 23, "int4", 1042, "bpchar", 1184, "timestamptz");

  private PostgresValues() {}

  static SqlDatabase.ValueReader reader(String type) {
    if (type.equals("bytea")) {
      return ResultSet::getBytes;
    }
    if (type.startsWith("_")) {
      return (rows, column) -> {
        Array array = rows.getArray(column);
        return array == null ? null : elements(array.getArray());
      };
    }
    Function<String, Object> parser = parser(type);
    return (rows, column) -> {
      String text = rows.getString(column);
      return text == null ? null : parser.apply(text);
    };
  }

  private static List<Object> elements(Object array) {
    List<Object> all = new ArrayList<>();
    for (Object element : (Object[]) array) {
      if (element instanceof Object[]) {
        all.addAll(elements(element));
      } else if (element != null) {
        // Numbers of any length stay text, as they do outside arrays.
        all.add(
            switch (element) {
              case BigDecimal number -> number.toPlainString();
              case Integer number -> number.toString();
              case Number number -> number;
              default -> element.toString();
            });
      }
    }
    return all;
  }

  /** A value of the log. */
  static Object ofText(int typeId, String text) {
    return parser(TYPES.getOrDefault(typeId, "")).apply(text);
  }

  /**
   * A value that was cast to text.
   *
   * @param type of its column, as the catalogue calls it
   */
  static Object ofText(String type, String text) {
    return parser(
            switch (type) {
              case "smallint", "integer", "bigint" -> "int8";
              case "boolean" -> "bool";
              case "timestamp with time zone" -> "timestamptz";
              default ->
                  type.startsWith("character(")
                      ? "bpchar"
                      : type.endsWith(") with time zone") && type.startsWith("timestamp(")
                          ? "timestamptz"
                          : "";
            })
        .apply(text);
  }

  private static Function<String, Object> parser(String type) {
    return switch (type) {
      case "int2", "int4", "int8", "serial", "bigserial", "smallserial" -> Long::valueOf;
      case "bool" -> text -> text.equals("t") || text.equals("true");
      // Trailing blanks of char(n) do not count in comparisons.
      case "bpchar" -> String::stripTrailing;
      case "timestamptz" ->
          text ->
              text.endsWith("+00")
                  ? text.substring(0, text.length() - 3).replace(' ', 'T') + "Z"
                  : text;
      default -> text -> text;
    };
  }
}
