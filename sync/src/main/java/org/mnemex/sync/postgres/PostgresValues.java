package org.mnemex.sync.postgres;

import java.sql.Array;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Values as records and changes have them. Both come from PostgreSQL's own text form, so that the
 * key in a change is the key that a query gives. Sessions must have time zone UTC.
 */
final class PostgresValues {
  private static final Map<Integer, String> TYPES =
      Map.of(16, "bool", 20, "int8", 21, "int2", 23, "int4", 1042, "bpchar", 1184, "timestamptz");

  private PostgresValues() {}

  static @Nullable Object of(ResultSet rows, int column) throws SQLException {
    String type = rows.getMetaData().getColumnTypeName(column);
    if (type.equals("bytea")) {
      return rows.getBytes(column);
    }
    if (type.startsWith("_")) {
      Array array = rows.getArray(column);
      return array == null ? null : elements(array.getArray());
    }
    String text = rows.getString(column);
    return text == null ? null : ofText(type, text);
  }

  private static List<Object> elements(Object array) {
    List<Object> all = new ArrayList<>();
    for (Object element : (Object[]) array) {
      if (element instanceof Object[]) {
        all.addAll(elements(element));
      } else if (element != null) {
        all.add(element instanceof Number n && !(n instanceof Integer) ? n : element.toString());
      }
    }
    return all;
  }

  /** A value of the log. */
  static Object ofText(int typeId, String text) {
    return ofText(TYPES.getOrDefault(typeId, ""), text);
  }

  private static Object ofText(String type, String text) {
    return switch (type) {
      case "int2", "int4", "int8", "serial", "bigserial", "smallserial" -> Long.valueOf(text);
      case "bool" -> text.equals("t") || text.equals("true");
      // Trailing blanks of char(n) do not count in comparisons.
      case "bpchar" -> text.stripTrailing();
      case "timestamptz" ->
          text.endsWith("+00")
              ? text.substring(0, text.length() - 3).replace(' ', 'T') + "Z"
              : text;
      default -> text;
    };
  }
}
