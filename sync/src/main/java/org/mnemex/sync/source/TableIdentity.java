package org.mnemex.sync.source;

import java.util.Map;
import java.util.TreeMap;

/**
 * What tells a table from another one that has its name later.
 *
 * @param table empty if it is not known
 * @param parts of a partitioned table: whether rows may have come with a part when it was attached,
 *     by what tells it from others
 */
public record TableIdentity(String table, Map<String, Boolean> parts) {
  /** Nothing is known. */
  public static final TableIdentity UNKNOWN = new TableIdentity("", Map.of());

  public TableIdentity {
    parts = new TreeMap<>(parts);
  }

  /**
   * Whether a table that was this one can be another without that rows came or went unseen: only
   * new parts that were made empty may have come.
   */
  public boolean mayBecome(TableIdentity later) {
    if (table.isEmpty() || later.table.isEmpty()) {
      return true;
    }
    return table.equals(later.table)
        && later.parts.keySet().containsAll(parts.keySet())
        && later.parts.entrySet().stream()
            .allMatch(part -> parts.containsKey(part.getKey()) || !part.getValue());
  }
}
