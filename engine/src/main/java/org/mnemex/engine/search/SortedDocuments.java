package org.mnemex.engine.search;

import java.util.Arrays;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.SegmentReader;

/**
 * All documents of a segment in the order of one field, equal ones by their keys. Where most of
 * them are results, the first ones are found by walking along it instead of looking at all.
 */
final class SortedDocuments {
  /** Of more documents, sorting takes too much memory: 28 bytes for each while it lasts. */
  static final int MAX_DOCUMENTS = 1 << 22;

  private SortedDocuments() {}

  /**
   * The documents in order.
   *
   * @param sort the field's values in the segment
   */
  static int[] of(SegmentReader segment, SortKey.InSegment sort, Budget budget) {
    int count = segment.documents();
    long[] numbers = new long[count];
    int[] inOrderOfKeys = new int[count];
    int valued = 0;
    for (int doc = 0; doc < count; doc++) {
      inOrderOfKeys[segment.keyPlace(doc)] = doc;
      if (sort.has(doc)) {
        numbers[valued++] = sort.number(doc);
      }
      mayContinue(budget);
    }
    long[] different = Arrays.stream(numbers, 0, valued).sorted().distinct().toArray();
    // The place of the value above the place of the key, so that plain numbers are sorted.
    long[] places = new long[count];
    for (int doc = 0; doc < count; doc++) {
      places[doc] = sort.place(doc, different) << Integer.SIZE | segment.keyPlace(doc);
      mayContinue(budget);
    }
    Arrays.sort(places);
    int[] documents = new int[count];
    for (int i = 0; i < count; i++) {
      documents[i] = inOrderOfKeys[(int) places[i]];
    }
    return documents;
  }

  private static void mayContinue(Budget budget) {
    if (!budget.step()) {
      // Half of an order must not be kept.
      throw budget.tooLate();
    }
  }
}
