package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;
import java.util.Set;
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
   * @param view whether it is a view, which no trigger can watch
   * @param key columns of the primary key, in order
   * @param indexed columns that an index begins with
   */
  public record Table(
      String name, boolean view, List<Column> columns, List<String> key, Set<String> indexed) {
    /** The column of that name, or null. */
    public @Nullable Column column(String column) {
      return columns.stream().filter(c -> c.name().equals(column)).findFirst().orElse(null);
    }

    public Set<String> columnNames() {
      return columns.stream().map(Column::name).collect(java.util.stream.Collectors.toSet());
    }
  }

  /**
   * A column.
   *
   * @param type as the database calls it
   * @param binary whether it holds bytes that are no text
   */
  public record Column(String name, String type, boolean binary) {}
}
