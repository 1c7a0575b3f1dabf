package org.mnemex.service.insight;

import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;

/** Knows which results of recent answers were opened, so that each of them counts once. */
final class OpenedResults {
  private static final int ANSWERS = 20_000;

  /** Nobody opens more results of an answer. */
  private static final int MOST = 200;

  private final Map<Long, Set<String>> keys = new Recent<>(ANSWERS);

  /**
   * Whether opening a result counts.
   *
   * @param isFirst whether it is the first opened result of its answer
   * @param isNew whether it has not been opened before
   */
  record Opening(boolean isFirst, boolean isNew) {}

  synchronized Opening open(long answer, String key) {
    Set<String> before = keys.computeIfAbsent(answer, number -> new HashSet<>());
    boolean isFirst = before.isEmpty();
    return new Opening(isFirst, before.size() < MOST && before.add(key));
  }

  /** A map that forgets what was put into it first. */
  static final class Recent<K, V> extends LinkedHashMap<K, V> {
    private static final long serialVersionUID = 1;

    private final int most;

    Recent(int most) {
      this.most = most;
    }

    @Override
    protected boolean removeEldestEntry(Map.Entry<K, V> eldest) {
      return size() > most;
    }
  }
}
