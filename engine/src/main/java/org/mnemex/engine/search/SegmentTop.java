package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.List;
import java.util.PriorityQueue;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.request.SearchRequest;

/** The best results of one segment; the worst of them stands on top of a heap. */
final class SegmentTop {
  private final int wanted;
  private final Order order;
  private final Order.InSegment inSegment;
  private final SearchRequest.@Nullable Cursor after;
  private final PriorityQueue<Order.Entry> heap;
  private final double floor;

  /**
   * @param floor results that score less are not among the best of the whole edition; only when the
   *     order is by relevance
   */
  SegmentTop(
      int wanted,
      Order order,
      SegmentReader segment,
      SearchRequest.@Nullable Cursor after,
      double floor) {
    this.wanted = wanted;
    this.order = order;
    this.inSegment = order.new InSegment(segment);
    this.after = after;
    this.floor = floor;
    this.heap = new PriorityQueue<>(Math.max(1, Math.min(wanted, 1000)), inSegment.reversed());
  }

  void offer(int doc, double score) {
    if (wanted == 0) {
      return;
    }
    if (order.isByRelevance() && score < threshold()) {
      return;
    }
    Order.Entry entry = inSegment.entry(doc, score);
    if (heap.size() == wanted && inSegment.compare(entry, heap.element()) >= 0) {
      return;
    }
    if (after != null && !order.isBehind(entry, after)) {
      return;
    }
    if (heap.size() == wanted) {
      heap.remove();
    }
    heap.add(entry);
  }

  /** Offers results that all score the same, by their keys. */
  void offerByKey(DocBits results, Budget budget) {
    Dictionary.Walk keys = inSegment.segment().keys().walk();
    while (!isFull() && keys.next() && budget.step()) {
      int doc = (int) keys.number(0);
      if (results.get(doc)) {
        offer(doc, 0);
      }
    }
  }

  /**
   * Offers results that all score the same.
   *
   * @param documents the segment's documents in the wanted order
   */
  void offerFirst(int[] documents, DocBits results, Budget budget) {
    for (int i = 0; i < documents.length && !isFull() && budget.step(); i++) {
      if (results.get(documents[i])) {
        offer(documents[i], 0);
      }
    }
  }

  /** Results that score less than this cannot be among the best; only when by relevance. */
  double threshold() {
    return wanted == 0
        ? Double.POSITIVE_INFINITY
        : heap.size() < wanted ? floor : Math.max(floor, heap.element().score());
  }

  boolean isFull() {
    return heap.size() == wanted;
  }

  List<Order.Entry> entries() {
    return new ArrayList<>(heap);
  }
}
