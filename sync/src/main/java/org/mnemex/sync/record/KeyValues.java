package org.mnemex.sync.record;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.UUID;

/**
 * Converts the values of a key to the types of its columns. A key that was read from a text has
 * only the texts of its values; compared as text, a database might ignore an index on numbers, find
 * other rows, or refuse the statement.
 *
 * @param types the types of the key's columns in the database
 */
record KeyValues(Sql sql, List<String> types) {
  private static final Set<String> WHOLE =
      Set.of("tinyint", "smallint", "mediumint", "int", "integer", "bigint");
  private static final Set<String> DECIMAL = Set.of("decimal", "numeric");

  /** Declared types of SQLite that give a column an affinity. */
  private static final Set<String> WITH_AFFINITY =
      Set.of("INT", "CHAR", "CLOB", "TEXT", "REAL", "FLOA", "DOUB");

  /**
   * The rows of values that a key may mean: usually one; several if a column may hold a number as
   * well as its text; none if a value does not fit its column, so that no such record exists.
   */
  List<List<Object>> rows(List<Object> values) {
    List<List<Object>> rows = List.of(List.of());
    for (int i = 0; i < values.size(); i++) {
      List<List<Object>> longer = new ArrayList<>();
      for (Object form : forms(i < types.size() ? types.get(i) : "text", values.get(i))) {
        for (List<Object> row : rows) {
          List<Object> next = new ArrayList<>(row);
          next.add(form);
          longer.add(next);
        }
      }
      rows = longer;
    }
    return rows;
  }

  private List<Object> forms(String type, Object value) {
    if (!(value instanceof String text)) {
      return List.of(value);
    }
    return sql.typedColumns() ? typedForm(type, text) : anyForm(type, text);
  }

  /** A column with an affinity compares numeric texts as numbers. */
  private static List<Object> anyForm(String type, String text) {
    boolean plain =
        type.isEmpty() || type.contains("BLOB") && WITH_AFFINITY.stream().noneMatch(type::contains);
    if (plain && text.matches("-?\\d{1,18}")) {
      return List.of(text, Long.valueOf(text));
    }
    return plain && text.matches("-?\\d+(\\.\\d+)?(E-?\\d+)?")
        ? List.of(text, Double.valueOf(text))
        : List.of(text);
  }

  private static List<Object> typedForm(String typeName, String text) {
    String type = typeName.toLowerCase(Locale.ROOT).split("[ (]", 2)[0];
    try {
      if (WHOLE.contains(type)) {
        // An unsigned number may be too large for a long.
        return text.matches("-?\\d{1,20}") ? List.of(new BigDecimal(text)) : List.of();
      }
      if (DECIMAL.contains(type)) {
        return text.matches("-?[0-9.]{1,200}") ? List.of(new BigDecimal(text)) : List.of();
      }
      switch (type) {
        case "uuid" -> UUID.fromString(text);
        case "date" -> LocalDate.parse(text);
        default -> {
          // Converted by the database.
        }
      }
      return List.of(text);
    } catch (DateTimeException | IllegalArgumentException e) {
      return List.of();
    }
  }
}
