package org.mnemex.sync.source;

import java.util.AbstractMap;
import java.util.AbstractSet;
import java.util.Iterator;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Objects;
import java.util.Set;
import java.util.function.BiConsumer;
import org.jspecify.annotations.Nullable;

/**
 * The values of a row under names that it shares with others: one array, where a map of its own
 * would take an object for each value. A value that is null is absent. Its members come in the
 * order of their names.
 */
public final class Row extends AbstractMap<String, Object> {
  private final RowNames names;
  private final @Nullable Object[] values;

  Row(RowNames names) {
    this.names = names;
    this.values = new Object[names.size()];
  }

  @Override
  public @Nullable Object get(@Nullable Object name) {
    Integer place = names.place(name);
    return place == null ? null : values[place];
  }

  @Override
  public boolean containsKey(@Nullable Object name) {
    return get(name) != null;
  }

  /**
   * Sets a value.
   *
   * @throws IllegalArgumentException if there is no such name
   */
  @Override
  public @Nullable Object put(String name, Object value) {
    Integer place = names.place(name);
    if (place == null) {
      throw new IllegalArgumentException("a row has no '" + name + "'");
    }
    Object before = values[place];
    values[place] = value;
    return before;
  }

  @Override
  public void forEach(BiConsumer<? super String, ? super Object> action) {
    for (int i = 0; i < values.length; i++) {
      Object value = values[i];
      if (value != null) {
        action.accept(names.name(i), value);
      }
    }
  }

  @Override
  public int size() {
    int size = 0;
    for (Object value : values) {
      size += value == null ? 0 : 1;
    }
    return size;
  }

  @Override
  public Set<Map.Entry<String, Object>> entrySet() {
    return new AbstractSet<>() {
      @Override
      public Iterator<Map.Entry<String, Object>> iterator() {
        return new Entries();
      }

      @Override
      public int size() {
        return Row.this.size();
      }
    };
  }

  private final class Entries implements Iterator<Map.Entry<String, Object>> {
    private int next;

    @Override
    public boolean hasNext() {
      while (next < values.length && values[next] == null) {
        next++;
      }
      return next < values.length;
    }

    @Override
    public Map.Entry<String, Object> next() {
      if (!hasNext()) {
        throw new NoSuchElementException();
      }
      int at = next++;
      return Map.entry(names.name(at), Objects.requireNonNull(values[at]));
    }
  }
}
