package org.mnemex.sync.source;

import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The names of a row's values, shared by all rows of a query. Immutable. */
public final class RowNames {
  /** In order, as records are written. */
  private final List<String> names;

  private final Map<String, Integer> places = new HashMap<>();

  /** The distinct names among some. */
  public RowNames(Collection<String> names) {
    this.names = names.stream().distinct().sorted().toList();
    for (String name : this.names) {
      places.put(name, places.size());
    }
  }

  /** A row without values. */
  public Row row() {
    return new Row(this);
  }

  int size() {
    return names.size();
  }

  String name(int place) {
    return names.get(place);
  }

  /** The place of a name; null if it is none of them. */
  @Nullable Integer place(@Nullable Object name) {
    return places.get(name);
  }
}
