package org.mnemex.sync.sqlite;

import java.util.Collection;
import java.util.stream.Collectors;

/** Pieces of SQL text. */
final class Sql {
  private Sql() {}

  /** A name in double quotes. */
  static String name(String name) {
    return '"' + name.replace("\"", "\"\"") + '"';
  }

  static String column(String table, String column) {
    return name(table) + "." + name(column);
  }

  /** A text in single quotes. */
  static String text(String text) {
    return "'" + text.replace("'", "''") + "'";
  }

  static String list(Collection<String> parts) {
    return String.join(", ", parts);
  }

  /** {@code (a, b) IN (VALUES (?, ?), …)}, or {@code a IN (?, …)} for a single column. */
  static String in(Collection<String> columns, int rows) {
    if (columns.size() == 1) {
      return columns.iterator().next() + " IN (" + "?, ".repeat(rows - 1) + "?)";
    }
    String row = columns.stream().map(column -> "?").collect(Collectors.joining(", ", "(", ")"));
    return "(" + list(columns) + ") IN (VALUES " + (row + ", ").repeat(rows - 1) + row + ")";
  }
}
