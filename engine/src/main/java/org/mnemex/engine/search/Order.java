package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.ShardResult;

/**
 * The total order of results: the fields to sort by, if there are any, then relevance, then key.
 */
final class Order {
  private final List<SortKey> keys;

  private Order(List<SortKey> keys) {
    this.keys = keys;
  }

  /**
   * The order of a request.
   *
   * @throws QueryRefusedException if it cannot be sorted so
   */
  static Order of(List<SearchRequest.Sort> sorts, Schema schema, Budget budget) {
    return new Order(sorts.stream().map(sort -> SortKey.of(sort, schema, budget)).toList());
  }

  boolean isByRelevance() {
    return keys.isEmpty();
  }

  /**
   * All documents of a segment in this order, if they score the same; null if it is not by one
   * field, or depends on the caller.
   */
  int @Nullable [] documents(SegmentReader segment) {
    return keys.size() == 1 ? keys.getFirst().in(segment).documents() : null;
  }

  /** One result that may be shown. */
  static final class Entry {
    private final SegmentReader segment;
    private final int doc;
    private final double score;
    private final long number;
    private final boolean has;
    private byte @Nullable [] key;

    /**
     * @param number what it compares by within its segment, by the first of the fields
     * @param has whether it has a value in that field
     */
    Entry(SegmentReader segment, int doc, double score, long number, boolean has) {
      this.segment = segment;
      this.doc = doc;
      this.score = score;
      this.number = number;
      this.has = has;
    }

    SegmentReader segment() {
      return segment;
    }

    int doc() {
      return doc;
    }

    double score() {
      return score;
    }

    /** Read once: where many results have the same score, it decides again and again. */
    byte[] key() {
      byte[] read = key;
      if (read == null) {
        read = segment.key(doc);
        key = read;
      }
      return read;
    }
  }

  /** The order within a segment. */
  final class InSegment implements Comparator<Entry> {
    private final SegmentReader segment;
    private final SortKey.InSegment[] sorts;

    InSegment(SegmentReader segment) {
      this.segment = segment;
      this.sorts = keys.stream().map(key -> key.in(segment)).toArray(SortKey.InSegment[]::new);
    }

    SegmentReader segment() {
      return segment;
    }

    Entry entry(int doc, double score) {
      boolean has = sorts.length > 0 && sorts[0].has(doc);
      return new Entry(segment, doc, score, has ? sorts[0].number(doc) : 0, has);
    }

    @Override
    public int compare(Entry a, Entry b) {
      if (sorts.length > 0) {
        int bySort = sorts[0].compare(a.has, a.number, b.has, b.number);
        // The other fields are looked at where the first is the same only.
        for (int i = 1; bySort == 0 && i < sorts.length; i++) {
          bySort = sorts[i].compare(a.doc, b.doc);
        }
        if (bySort != 0) {
          return bySort;
        }
      }
      int byScore = Double.compare(b.score, a.score);
      return byScore != 0
          ? byScore
          : Integer.compare(segment.keyPlace(a.doc), segment.keyPlace(b.doc));
    }
  }

  /** Compares by value, so across segments. */
  int compare(Entry a, Entry b) {
    for (SortKey key : keys) {
      int bySort = key.compare(key.value(a.segment, a.doc), key.value(b.segment, b.doc));
      if (bySort != 0) {
        return bySort;
      }
    }
    int byScore = Double.compare(b.score, a.score);
    return byScore != 0 ? byScore : Arrays.compareUnsigned(a.key(), b.key());
  }

  /**
   * A result that is elsewhere, with what it compares by.
   *
   * @param shard the number of the shard that has it, from 0
   */
  record Elsewhere(ShardResult.Place place, List<@Nullable Object> values, byte[] key, int shard) {}

  /**
   * @throws QueryRefusedException if it is a place in another order
   */
  Elsewhere elsewhere(ShardResult.Place place, int shard) {
    if (place.sortValues().size() != keys.size()) {
      throw anotherSort();
    }
    List<@Nullable Object> values = new ArrayList<>();
    for (int i = 0; i < keys.size(); i++) {
      values.add(keys.get(i).parsed(place.sortValues().get(i)));
    }
    return new Elsewhere(place, values, place.key().getBytes(StandardCharsets.UTF_8), shard);
  }

  int compare(Elsewhere a, Elsewhere b) {
    for (int i = 0; i < keys.size(); i++) {
      int bySort = keys.get(i).compare(a.values.get(i), b.values.get(i));
      if (bySort != 0) {
        return bySort;
      }
    }
    int byScore = Double.compare(b.place.score(), a.place.score());
    return byScore != 0 ? byScore : Arrays.compareUnsigned(a.key, b.key);
  }

  /** Where an entry stands in the order. */
  ShardResult.Place place(Entry entry) {
    List<@Nullable Object> values = new ArrayList<>();
    for (SortKey key : keys) {
      values.add(key.told(entry.segment, entry.doc));
    }
    return new ShardResult.Place(
        values, entry.score, new String(entry.key(), StandardCharsets.UTF_8));
  }

  /** Whether a result comes after a cursor. */
  boolean isBehind(Entry entry, SearchRequest.Cursor cursor) {
    if (cursor.sortValues().size() != keys.size()) {
      throw anotherSort();
    }
    for (int i = 0; i < keys.size(); i++) {
      SortKey key = keys.get(i);
      int bySort =
          key.compare(key.value(entry.segment, entry.doc), key.parsed(cursor.sortValues().get(i)));
      if (bySort != 0) {
        return bySort > 0;
      }
    }
    int byScore = Double.compare(cursor.score(), entry.score);
    return byScore != 0
        ? byScore > 0
        : Arrays.compareUnsigned(entry.key(), cursor.key().getBytes(StandardCharsets.UTF_8)) > 0;
  }

  private static QueryRefusedException anotherSort() {
    return new QueryRefusedException("the cursor belongs to another sort");
  }

  /** The place in the order that an entry has. */
  SearchRequest.Cursor cursor(Entry entry, SearchRequest.Basis basis) {
    ShardResult.Place place = place(entry);
    return new SearchRequest.Cursor(place.sortValues(), place.score(), place.key(), basis);
  }

  /** The first of all segments' entries. */
  List<Entry> first(List<Entry> entries, int count) {
    return entries.stream().sorted(this::compare).limit(count).toList();
  }
}
