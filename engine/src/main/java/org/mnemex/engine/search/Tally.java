package org.mnemex.engine.search;

import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.DocBits;

/**
 * Counts for every document of a segment in how many of some sets it is, 64 documents at a time:
 * each array has one binary digit of all counts (bit slices: O'Neil and Quass, "Improved Query
 * Performance with Variant Indexes", SIGMOD 1997).
 */
final class Tally {
  private final int size;
  private final long[][] digits;

  /**
   * A tally of nothing yet.
   *
   * @param size how many documents there are
   * @param most how many sets are counted at most
   * @throws org.mnemex.engine.error.QueryRefusedException if it takes too much memory
   */
  Tally(int size, int most, Budget budget) {
    int count = Integer.SIZE - Integer.numberOfLeadingZeros(most);
    budget.take((long) count * size / Byte.SIZE);
    this.size = size;
    this.digits = new long[count][(size + 63) >>> 6];
  }

  void add(DocBits set) {
    long[] words = set.words();
    for (int w = 0; w < words.length; w++) {
      long carry = words[w];
      for (int i = 0; carry != 0; i++) {
        long before = digits[i][w];
        digits[i][w] = before ^ carry;
        carry &= before;
      }
    }
  }

  /** The documents that are in so many of the sets, or more. */
  DocBits atLeast(int least) {
    long[] found = new long[(size + 63) >>> 6];
    for (int w = 0; w < found.length; w++) {
      long more = 0;
      long same = -1;
      for (int i = digits.length - 1; i >= 0; i--) {
        long digit = digits[i][w];
        if ((least >>> i & 1) == 0) {
          more |= same & digit;
          same &= ~digit;
        } else {
          same &= digit;
        }
      }
      found[w] = more | same;
    }
    return DocBits.of(found, size);
  }
}
