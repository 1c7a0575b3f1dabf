package org.mnemex.sync.feed;

import java.util.Collection;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;

/**
 * Notes which of some records a feed brings up to date, until it is closed. A record is noted when
 * what the feed made of it is visible, and before {@link Feed#trueAt} says so.
 */
public final class Watch implements AutoCloseable {
  private final Set<String> keys;
  private final Set<String> met = ConcurrentHashMap.newKeySet();
  private final Consumer<Watch> end;

  /**
   * @param keys texts of the records' keys
   * @param end is told when it is closed
   */
  Watch(Collection<String> keys, Consumer<Watch> end) {
    this.keys = Set.copyOf(keys);
    this.end = end;
  }

  /** Takes what became visible. */
  void visible(List<ChangeTrace> batch) {
    for (ChangeTrace trace : batch) {
      if (keys.contains(trace.key())) {
        met.add(trace.key());
      }
    }
  }

  /** Whether the feed has looked at a record since this watch began, and changed it or not. */
  public boolean hasMet(String key) {
    return met.contains(key);
  }

  @Override
  public void close() {
    end.accept(this);
  }
}
