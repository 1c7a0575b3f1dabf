package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;

/**
 * Foreign keys and comments of a table.
 *
 * @param foreignKeys foreign keys to other tables
 * @param comments comments by column
 */
public record TableNotes(List<ForeignKey> foreignKeys, Map<String, String> comments) {
  /**
   * A foreign key.
   *
   * @param columns the other table's column by column of this table
   */
  public record ForeignKey(Map<String, String> columns, String table) {}

  /** Nothing is known. */
  public static final TableNotes NONE = new TableNotes(List.of(), Map.of());
}
