package org.mnemex.sync.feed;

import java.util.Collection;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;

/**
 * Notes which of some records a feed updates, until closed. A record is noted once its update is
 * visible, and before {@link Feed#trueAt} includes it.
 */
public final class Watch implements AutoCloseable {
  private final Set<String> keys;
  private final Set<String> met = ConcurrentHashMap.newKeySet();
  private final Consumer<Watch> end;

  /**
   * @param keys texts of the records' keys
   * @param end called on close
   */
  Watch(Collection<String> keys, Consumer<Watch> end) {
    this.keys = Set.copyOf(keys);
    this.end = end;
  }

  /** Receives updates that became visible. */
  void visible(List<ChangeTrace> batch) {
    for (ChangeTrace trace : batch) {
      if (keys.contains(trace.key())) {
        met.add(trace.key());
      }
    }
  }

  /** Whether the feed has examined a record since this watch started. */
  public boolean hasMet(String key) {
    return met.contains(key);
  }

  @Override
  public void close() {
    end.accept(this);
  }
}
