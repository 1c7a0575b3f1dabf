package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.PriorityQueue;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.text.Folding;

/**
 * The first results in a total order: the sort field if there is one, then relevance, then key.
 * Keeps the worst of the best on top of a heap.
 */
final class TopHits {
  private final int wanted;
  private final @Nullable Field sortField;
  private final Comparator<Entry> order;
  private final PriorityQueue<Entry> heap;
  private final boolean descending;

  TopHits(int wanted, @Nullable Field sortField, SearchRequest.@Nullable Sort sort) {
    this.wanted = wanted;
    this.sortField = sortField;
    this.descending = sort != null && sort.descending();
    this.order = this::compare;
    this.heap = new PriorityQueue<>(Math.max(1, Math.min(wanted, 1000)), order.reversed());
  }

  void offer(SegmentReader segment, int doc, double score) {
    if (wanted == 0) {
      return;
    }
    Entry entry = new Entry(segment, doc, score, sortValue(segment, doc));
    if (heap.size() < wanted) {
      heap.add(entry);
    } else if (compare(entry, heap.element()) < 0) {
      heap.remove();
      heap.add(entry);
    }
  }

  /** The results in order. */
  List<Entry> inOrder() {
    List<Entry> all = new ArrayList<>(heap);
    all.sort(order);
    return all;
  }

  private int compare(Entry a, Entry b) {
    if (sortField != null) {
      int bySort = compareSortValues(a.sortValue, b.sortValue);
      if (bySort != 0) {
        return bySort;
      }
    }
    int byScore = Double.compare(b.score, a.score);
    return byScore != 0
        ? byScore
        : Arrays.compareUnsigned(a.segment.key(a.doc), b.segment.key(b.doc));
  }

  /** Missing values come last in both directions. */
  private int compareSortValues(@Nullable Object a, @Nullable Object b) {
    if (a == null || b == null) {
      return Boolean.compare(a == null, b == null);
    }
    int ascending =
        a instanceof Long x && b instanceof Long y
            ? Long.compare(x, y)
            : Arrays.compareUnsigned((byte[]) a, (byte[]) b);
    return descending ? -ascending : ascending;
  }

  /** The least value of a document, or the greatest in descending order. */
  private @Nullable Object sortValue(SegmentReader segment, int doc) {
    if (sortField == null) {
      return null;
    }
    if (sortField.type() == FieldType.EXACT) {
      SegmentReader.OrdinalColumn column = segment.ordinals(sortField);
      int first = column.first(doc);
      int end = column.end(doc);
      if (first == end) {
        return null;
      }
      byte[] value = column.values().get(column.ordinal(descending ? end - 1 : first));
      return sortField.fold()
          ? Folding.foldCase(new String(value, StandardCharsets.UTF_8))
              .getBytes(StandardCharsets.UTF_8)
          : value;
    }
    SegmentReader.NumberColumn column = segment.numbers(sortField);
    int first = column.first(doc);
    int end = column.end(doc);
    return first == end ? null : column.value(descending ? end - 1 : first);
  }

  /** One result that is kept. */
  record Entry(SegmentReader segment, int doc, double score, @Nullable Object sortValue) {}
}
