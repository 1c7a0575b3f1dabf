package org.mnemex.sync.draft;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/** Detects columns that look personal, which drafts put under {@code never}. */
public final class PersonalColumns {
  private PersonalColumns() {}

  /** Whether a column's name looks personal. */
  public static boolean isByName(String column) {
    return !new ColumnSample(column, List.of()).personal().isEmpty();
  }

  /** Rows without columns whose values look personal. */
  public static List<Map<String, Object>> leftOut(
      List<Map<String, Object>> rows, List<String> columns) {
    Set<String> personal = new TreeSet<>();
    for (String column : columns) {
      if (!new ColumnSample(column, rows).personal().isEmpty()) {
        personal.add(column);
      }
    }
    return rows.stream()
        .map(
            row -> {
              Map<String, Object> kept = new LinkedHashMap<>(row);
              kept.keySet().removeAll(personal);
              return kept;
            })
        .toList();
  }
}
