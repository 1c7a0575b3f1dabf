package org.mnemex.engine.read;

import java.util.Arrays;
import java.util.BitSet;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Sums over the deleted documents of a segment, by which those over the documents that are left are
 * told: scores then depend on what is there, and not on when segments were merged.
 *
 * <p>While a segment is open its deletions only grow. So the sets of them that searches see are a
 * chain, one is told from another by its size, and a sum over a smaller one is carried on instead
 * of being made anew. Thread-safe.
 */
final class DeletedSums {
  /** Sums that are kept, those that were asked for last. */
  private static final int MAX_KEPT = 8_192;

  /** The deleted documents in the order in which searches saw them go. */
  private int[] order = {};

  private int known;
  private final DocBits seen;

  /** The sizes of the sets that were seen. */
  private final BitSet sizes = new BitSet();

  private final Map<Key, Sum> kept =
      new LinkedHashMap<>(16, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Key, Sum> eldest) {
          return size() > MAX_KEPT;
        }
      };

  /**
   * What is added up.
   *
   * @param place of a term, or a number for something else of the field
   */
  record Key(String field, int place) {}

  /** A sum over the first documents that went. */
  private record Sum(int documents, long value) {}

  /** Adds something up over documents. */
  interface Adder {
    /** Over a set of so many. */
    long over(DocBits docs, int count);

    /** Over documents in order. */
    long over(int[] docs);
  }

  /**
   * @param documents how many the segment has
   */
  DeletedSums(int documents) {
    this.seen = new DocBits(documents);
  }

  /**
   * A sum over deleted documents.
   *
   * @param deleted a set of the chain
   * @param count how many it has
   */
  long of(Key key, DocBits deleted, int count, Adder adder) {
    Sum before;
    int[] between;
    synchronized (this) {
      see(deleted, count);
      before = sizes.get(count) ? kept.get(key) : null;
      between = before == null ? null : between(before.documents, count);
    }
    long value;
    if (before == null || between == null) {
      value = adder.over(deleted, count);
    } else if (between.length == 0) {
      return before.value;
    } else {
      long more = adder.over(between);
      value = before.documents < count ? before.value + more : before.value - more;
    }
    keep(key, new Sum(count, value));
    return value;
  }

  private void see(DocBits deleted, int count) {
    if (count > known) {
      order = Arrays.copyOf(order, Math.max(count, Math.min(seen.size(), 2 * order.length)));
      long[] now = deleted.words();
      long[] before = seen.words();
      for (int i = 0; i < now.length; i++) {
        for (long fresh = now[i] & ~before[i]; fresh != 0; fresh &= fresh - 1) {
          order[known++] = (i << 6) + Long.numberOfTrailingZeros(fresh);
        }
        before[i] |= now[i];
      }
      sizes.set(count);
    }
  }

  /** The documents by which two sets of the chain differ; null if they are too many. */
  private int @Nullable [] between(int one, int other) {
    int from = Math.min(one, other);
    int end = Math.max(one, other);
    // From here on it is no dearer to begin again than to sort them.
    if (end - from > end / 4) {
      return null;
    }
    int[] docs = Arrays.copyOfRange(order, from, end);
    Arrays.sort(docs);
    return docs;
  }

  private synchronized void keep(Key key, Sum sum) {
    Sum now = kept.get(key);
    if (sizes.get(sum.documents) && (now == null || now.documents < sum.documents)) {
      kept.put(key, sum);
    }
  }
}
