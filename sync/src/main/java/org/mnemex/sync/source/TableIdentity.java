package org.mnemex.sync.source;

import java.util.Map;
import java.util.TreeMap;

/**
 * Identifies a table, to detect another one of the same name.
 *
 * @param table empty if unknown
 * @param parts partitions by identity: whether rows may have come when the partition was attached
 */
public record TableIdentity(String table, Map<String, Boolean> parts) {
  /** Nothing is known. */
  public static final TableIdentity UNKNOWN = new TableIdentity("", Map.of());

  public TableIdentity {
    parts = new TreeMap<>(parts);
  }

  /**
   * Whether no rows came or went unseen since this identity: at most, empty partitions were added.
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
