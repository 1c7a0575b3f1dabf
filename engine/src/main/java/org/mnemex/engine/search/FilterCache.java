package org.mnemex.engine.search;

import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.schema.Schema;

/**
 * Sets of documents of filters that come again. A segment never changes, so a set is right for
 * ever; a filter is remembered when it is asked for the second time, and the set that was used
 * longest ago goes when there are too many.
 */
public final class FilterCache {
  private static final int MOST_SEEN = 4_096;

  private final long mostBytes;
  private final Map<Key, DocBits> sets = new LinkedHashMap<>(64, 0.75f, true);
  private final Map<Key, Boolean> seen = new LinkedHashMap<>();
  private long bytes;

  /**
   * @param mostBytes memory for the sets
   */
  public FilterCache(long mostBytes) {
    this.mostBytes = mostBytes;
  }

  /**
   * The set of a filter in a segment, not to be changed; null if it is not known.
   *
   * @param schema that the filter is read with; another one may analyse its words otherwise
   */
  synchronized @Nullable DocBits get(long segment, Query filter, Schema schema) {
    return sets.get(new Key(segment, filter, schema));
  }

  /** Offers a set, which must not be changed any more. */
  synchronized void offer(long segment, Query filter, Schema schema, DocBits docs) {
    Key key = new Key(segment, filter, schema);
    if (seen.remove(key) == null) {
      seen.put(key, true);
      trim(seen);
      return;
    }
    long size = docs.size() / 8 + 64L;
    if (size > mostBytes / 4 || sets.put(key, docs) != null) {
      return;
    }
    bytes += size;
    var oldest = sets.entrySet().iterator();
    while (bytes > mostBytes && oldest.hasNext()) {
      bytes -= oldest.next().getValue().size() / 8 + 64L;
      oldest.remove();
    }
  }

  private static void trim(Map<Key, Boolean> seen) {
    if (seen.size() > MOST_SEEN) {
      var oldest = seen.keySet().iterator();
      oldest.next();
      oldest.remove();
    }
  }

  /** Schemas are compared by identity: each is read once. */
  private record Key(long segment, Query filter, Schema schema) {}
}
