package org.mnemex.engine.search;

import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Schema;

/**
 * Caches the sets of documents of repeated filters. A segment never changes, so a set stays valid;
 * a filter is cached at its second use, and the least recently used set is evicted.
 */
public final class FilterCache {
  /** Each has its own lock, so that concurrent searches hardly contend. */
  private static final int PARTS = 16;

  private static final int MAX_SEEN = 4_096 / PARTS;

  private final Part[] parts = new Part[PARTS];

  /**
   * @param mostBytes memory for the sets
   */
  public FilterCache(long mostBytes) {
    for (int i = 0; i < PARTS; i++) {
      parts[i] = new Part(mostBytes / PARTS, mostBytes / 4);
    }
  }

  private Part part(Key key) {
    int hash = key.hashCode();
    return parts[(hash ^ hash >>> 16) & PARTS - 1];
  }

  /**
   * The set of a filter in a segment, not to be changed; null if it is not known.
   *
   * @param schema that the filter is read with; another one may analyse its words otherwise
   */
  @Nullable DocBits get(SegmentReader segment, Query filter, Schema schema) {
    Key key = new Key(segment.identity(), filter, schema);
    return part(key).get(key);
  }

  /** Offers a set, which must not be changed any more. */
  void offer(SegmentReader segment, Query filter, Schema schema, DocBits docs) {
    Key key = new Key(segment.identity(), filter, schema);
    part(key).offer(key, docs);
  }

  /** The sets of some keys. */
  private static final class Part {
    private final long mostBytes;
    private final long largest;
    private final Map<Key, DocBits> sets = new LinkedHashMap<>(64, 0.75f, true);
    private final Map<Key, Boolean> seen = new LinkedHashMap<>();
    private long bytes;

    Part(long mostBytes, long largest) {
      this.mostBytes = mostBytes;
      this.largest = largest;
    }

    synchronized @Nullable DocBits get(Key key) {
      return sets.get(key);
    }

    synchronized void offer(Key key, DocBits docs) {
      if (seen.remove(key) == null) {
        seen.put(key, true);
        trim(seen);
        return;
      }
      long size = docs.size() / 8 + 64L;
      if (size > largest || sets.put(key, docs) != null) {
        return;
      }
      bytes += size;
      var oldest = sets.entrySet().iterator();
      while (bytes > Math.max(mostBytes, size) && oldest.hasNext()) {
        bytes -= oldest.next().getValue().size() / 8 + 64L;
        oldest.remove();
      }
    }
  }

  private static void trim(Map<Key, Boolean> seen) {
    if (seen.size() > MAX_SEEN) {
      var oldest = seen.keySet().iterator();
      oldest.next();
      oldest.remove();
    }
  }

  /**
   * Segments and schemas are compared by identity: two editions may have segments of the same
   * number, and a schema is read once.
   */
  private record Key(Object segment, Query filter, Schema schema) {}
}
