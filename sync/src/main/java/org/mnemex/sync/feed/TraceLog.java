package org.mnemex.sync.feed;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Deque;
import java.util.List;

/** The last changes, newest last, and what their lags say. May be read by any thread. */
final class TraceLog {
  private static final int KEPT = 1000;

  private final Deque<ChangeTrace> entries = new ArrayDeque<>();
  private final long[] lags = new long[KEPT];
  private long total;

  synchronized void add(ChangeTrace entry) {
    if (entries.size() == KEPT) {
      entries.removeFirst();
    }
    entries.addLast(entry);
    lags[(int) (total++ % KEPT)] = entry.lagMillis();
  }

  synchronized long total() {
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

  /** The lag that a share of the last changes did not exceed; -1 if there were none. */
  synchronized long lagMillis(double share) {
    int count = (int) Math.min(total, KEPT);
    if (count == 0) {
      return -1;
    }
    long[] sorted = Arrays.copyOf(lags, count);
    Arrays.sort(sorted);
    return sorted[(int) Math.min(count - 1, Math.floor(share * count))];
  }
}
