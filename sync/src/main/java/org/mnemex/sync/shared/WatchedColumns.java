package org.mnemex.sync.shared;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Which columns of which tables are watched, and from where on. */
final class WatchedColumns {
  private final List<Watched> all = new ArrayList<>();

  private record Watched(Map<String, Set<String>> columns, long since) {
    boolean has(String table, String column, long number) {
      return Long.compareUnsigned(since, number) <= 0
          && columns.getOrDefault(table, Set.of()).contains(column);
    }
  }

  /**
   * Adds columns.
   *
   * @param columns by table
   * @param since the number of a position; they are watched after it
   */
  void add(Map<String, Set<String>> columns, long since) {
    all.add(new Watched(columns, since));
  }

  /** Whether columns are watched after a position. */
  boolean cover(Map<String, Set<String>> columns, long number) {
    return columns.entrySet().stream()
        .allMatch(
            table ->
                table.getValue().stream()
                    .allMatch(
                        column ->
                            all.stream().anyMatch(w -> w.has(table.getKey(), column, number))));
  }
}
