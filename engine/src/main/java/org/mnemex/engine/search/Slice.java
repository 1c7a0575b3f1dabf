package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.List;
import org.mnemex.engine.read.SegmentView;

/**
 * Documents of a segment that stand next to each other.
 *
 * @param from the first of them
 * @param end the first one after them
 */
record Slice(SegmentView view, int from, int end) {
  static Slice whole(SegmentView view) {
    return new Slice(view, 0, view.reader().documents());
  }

  boolean isWhole() {
    return isFirst() && end == view.reader().documents();
  }

  boolean isFirst() {
    return from == 0;
  }

  /** The documents of segments in so many parts of the same size, in their order. */
  static List<List<Slice>> divided(List<SegmentView> segments, int count) {
    long all = segments.stream().mapToLong(view -> view.reader().documents()).sum();
    List<List<Slice>> parts = new ArrayList<>();
    int segment = 0;
    int from = 0;
    for (int part = 1; part <= count; part++) {
      long left = all * part / count - all * (part - 1) / count;
      List<Slice> slices = new ArrayList<>();
      while (left > 0) {
        SegmentView view = segments.get(segment);
        int documents = view.reader().documents();
        int end = (int) Math.min(documents, from + left);
        slices.add(new Slice(view, from, end));
        left -= end - from;
        segment += end == documents ? 1 : 0;
        from = end == documents ? 0 : end;
      }
      parts.add(slices);
    }
    return parts;
  }
}
