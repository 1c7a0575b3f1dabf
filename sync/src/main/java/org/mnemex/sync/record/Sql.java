package org.mnemex.sync.record;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.stream.Collectors;

/**
 * Pieces of SQL text in the dialect of one kind of database.
 *
 * @param quote the quote around names
 * @param beforeRows the keyword before a list of rows of values
 * @param nowMicros the time now by the database's clock, in microseconds since 1970
 * @param hasTransactionalTables whether creating a table is transactional
 * @param typedColumns whether columns hold only values of their type
 * @param escapes whether backslashes in literals are escapes
 */
public record Sql(
    char quote,
    String beforeRows,
    String nowMicros,
    boolean hasTransactionalTables,
    boolean typedColumns,
    boolean escapes) {
  /** The standard's double quotes; rows of values after {@code VALUES}. */
  public static final Sql SQLITE =
      new Sql(
          '"',
          "VALUES ",
          "CAST((julianday('now') - 2440587.5) * 86400000000 AS INTEGER)",
          true,
          false,
          false);

  /** The standard's double quotes. */
  public static final Sql POSTGRES =
      new Sql(
          '"',
          "",
          "CAST(extract(epoch FROM clock_timestamp()) * 1000000 AS bigint)",
          true,
          true,
          false);

  /** Names in back quotes. */
  public static final Sql MARIADB =
      new Sql('`', "", "CAST(UNIX_TIMESTAMP(SYSDATE(6)) * 1000000 AS SIGNED)", false, true, true);

  /** A name in quotes. */
  public String name(String name) {
    String mark = String.valueOf(quote);
    return mark + name.replace(mark, mark + mark) + mark;
  }

  public String column(String table, String column) {
    return name(table) + "." + name(column);
  }

  /** A text in single quotes. */
  public String text(String text) {
    String doubled = text.replace("'", "''");
    return "'" + (escapes ? doubled.replace("\\", "\\\\") : doubled) + "'";
  }

  static String list(Collection<String> parts) {
    return String.join(", ", parts);
  }

  /** {@code (a, b) IN ((?, ?), …)}, or {@code a IN (?, …)} for a single column. */
  String in(Collection<String> columns, int rows) {
    if (columns.size() == 1) {
      return columns.iterator().next() + " IN (" + "?, ".repeat(rows - 1) + "?)";
    }
    String row = columns.stream().map(column -> "?").collect(Collectors.joining(", ", "(", ")"));
    return "(%s) IN (%s%s%s)"
        .formatted(list(columns), beforeRows, (row + ", ").repeat(rows - 1), row);
  }

  /**
   * The condition for rows after a row of values in column order, written so that an index on them
   * is used; its parameters are {@link #afterParameters}.
   */
  String after(List<String> columns) {
    String last = columns.getLast() + " > ?";
    for (int i = columns.size() - 2; i >= 0; i--) {
      String column = columns.get(i);
      last = "(%s >= ? AND (%s > ? OR (%s)))".formatted(column, column, last);
    }
    return last;
  }

  /**
   * The condition for rows up to a row of values in column order; its parameters are {@link
   * #afterParameters}.
   */
  String upTo(List<String> columns) {
    String last = columns.getLast() + " <= ?";
    for (int i = columns.size() - 2; i >= 0; i--) {
      String column = columns.get(i);
      last = "(%s <= ? AND (%s < ? OR (%s)))".formatted(column, column, last);
    }
    return last;
  }

  static List<Object> afterParameters(List<Object> values) {
    List<Object> parameters = new ArrayList<>();
    for (int i = 0; i < values.size(); i++) {
      parameters.add(values.get(i));
      if (i < values.size() - 1) {
        parameters.add(values.get(i));
      }
    }
    return parameters;
  }
}
