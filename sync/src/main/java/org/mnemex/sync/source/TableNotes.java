package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;

/**
 * What a database says of a table besides its columns.
 *
 * @param foreignKeys of this table to others
 * @param comments by column, where there is one
 */
public record TableNotes(List<ForeignKey> foreignKeys, Map<String, String> comments) {
  /**
   * A foreign key.
   *
   * @param columns the other table's columns by those of this one
   */
  public record ForeignKey(Map<String, String> columns, String table) {}

  /** Nothing is known. */
  public static final TableNotes NONE = new TableNotes(List.of(), Map.of());
}
