package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;

/**
 * Foreign keys and comments of a table, and what its own types stand for.
 *
 * @param foreignKeys foreign keys to other tables
 * @param comments comments by column
 * @param types by column of a type that somebody made, the type behind it; {@code enum} if that
 *     lists its values
 */
public record TableNotes(
    List<ForeignKey> foreignKeys, Map<String, String> comments, Map<String, String> types) {
  /**
   * A foreign key.
   *
   * @param columns the other table's column by column of this table
   */
  public record ForeignKey(Map<String, String> columns, String table) {}

  /** Nothing is known. */
  public static final TableNotes NONE = new TableNotes(List.of(), Map.of(), Map.of());
}
