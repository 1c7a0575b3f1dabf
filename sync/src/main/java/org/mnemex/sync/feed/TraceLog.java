package org.mnemex.sync.feed;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import org.mnemex.sync.source.Position;

/** The latest changes, newest last, and statistics of their lags. Thread-safe for reading. */
final class TraceLog {
  private static final int KEPT = 1000;

  private final Deque<ChangeTrace> entries = new ArrayDeque<>();
  private final long[] lags = new long[KEPT];
  private final List<Watch> watches = new CopyOnWriteArrayList<>();
  private volatile long total;
  private long lagCount;

  /** Starts noting which of some records are updated. */
  Watch watch(Collection<String> keys) {
    Watch watch = new Watch(keys, watches::remove);
    watches.add(watch);
    return watch;
  }

  /** Adds the traces of a batch; a change that reaches many records counts once among the lags. */
  synchronized void add(List<ChangeTrace> batch) {
    watches.forEach(watch -> watch.visible(batch));
    Set<Position> counted = new HashSet<>();
    for (ChangeTrace entry : batch) {
      boolean changed = entry.outcome() != ChangeTrace.Outcome.UNCHANGED;
      total += changed ? 1 : 0;
      if (entries.size() == KEPT) {
        entries.removeFirst();
      }
      entries.addLast(entry);
      // Unchanged records may have been examined twice.
      if (changed && counted.add(entry.position())) {
        lags[(int) (lagCount++ % KEPT)] = entry.lagMillis();
      }
    }
  }

  /** Records updated so far. */
  long total() {
    return total;
  }

  /** The last entries, newest first. */
  synchronized List<ChangeTrace> last(int count) {
    List<ChangeTrace> out = new ArrayList<>();
    var newestFirst = entries.descendingIterator();
    while (newestFirst.hasNext() && out.size() < count) {
      out.add(newestFirst.next());
    }
    return out;
  }

  /** A percentile of recent lags; -1 if there were no changes. */
  synchronized long lagMillis(double share) {
    int count = (int) Math.min(lagCount, KEPT);
    if (count == 0) {
      return -1;
    }
    long[] sorted = Arrays.copyOf(lags, count);
    Arrays.sort(sorted);
    return sorted[(int) Math.min(count - 1, Math.floor(share * count))];
  }
}
