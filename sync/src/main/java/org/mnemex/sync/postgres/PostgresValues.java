package org.mnemex.sync.postgres;

import java.math.BigDecimal;
import java.sql.Array;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import org.mnemex.sync.record.SqlDatabase;

/**
 * Converts values of queries and of the log to one form. Both come from PostgreSQL's text form, so
 * a key is the same in both. Sessions must be in UTC, and must not transfer values in binary form,
 * from which the driver makes other texts.
 */
final class PostgresValues {
  private static final Map<Integer, String> TYPES =
      Map.of(16, "bool", 20, "int8", 21, "int2", 23, "int4", 1042, "bpchar", 1184, "timestamptz");

  private static final Set<String> MOMENTS =
      Set.of("date", "time", "timetz", "timestamp", "timestamptz");

  private PostgresValues() {}

  static SqlDatabase.ValueReader reader(String type) {
    if (type.equals("bytea")) {
      return ResultSet::getBytes;
    }
    if (type.startsWith("_")) {
      String element = type.substring(1);
      boolean moments = MOMENTS.contains(element);
      return (rows, column) -> {
        Array array = rows.getArray(column);
        return array == null
            ? null
            : moments ? moments(array, parser(element)) : elements(array.getArray());
      };
    }
    Function<String, Object> parser = parser(type);
    return (rows, column) -> {
      String text = rows.getString(column);
      return text == null ? null : parser.apply(text);
    };
  }

  /** From text: as objects they would pass through the time zone of this process. */
  private static List<Object> moments(Array array, Function<String, Object> parser)
      throws SQLException {
    List<Object> all = new ArrayList<>();
    try (ResultSet elements = array.getResultSet()) {
      boolean nested = elements.getMetaData().getColumnTypeName(2).startsWith("_");
      while (elements.next()) {
        String text = elements.getString(2);
        if (nested) {
          all.addAll(moments(elements.getArray(2), parser));
        } else if (text != null) {
          all.add(parser.apply(text));
        }
      }
    }
    return all;
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
