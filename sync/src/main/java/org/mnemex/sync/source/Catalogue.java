package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Tables and columns of a database.
 *
 * @param tables by name
 */
public record Catalogue(Map<String, Table> tables) {
  /** The table of that name, or null. */
  public @Nullable Table table(String name) {
    return tables.get(name);
  }

  /**
   * A table.
   *
   * @param name name of the table
   * @param view whether it is a view, which triggers cannot watch
   * @param columns its columns in order
   * @param key columns of the primary key, in order
   * @param indexed columns that come first in some index of the database
   */
  public record Table(
      String name, boolean view, List<Column> columns, List<String> key, Set<String> indexed) {
    /** The column of that name, or null. */
    public @Nullable Column column(String column) {
      return columns.stream().filter(c -> c.name().equals(column)).findFirst().orElse(null);
    }

    public Set<String> columnNames() {
      return columns.stream().map(Column::name).collect(Collectors.toSet());
    }
  }

  /**
   * A column.
   *
   * @param name name of the column
   * @param type type of the column, in the database's words
   * @param binary whether it holds bytes that are not text
   */
  public record Column(String name, String type, boolean binary) {}
}
