package org.mnemex.engine.search;

import java.util.Arrays;
import java.util.List;
import org.mnemex.engine.read.Postings;

/** Documents in which terms stand at given distances from one another. */
final class PhraseOccurrences extends Occurrences {
  private final List<Postings> terms;
  private final int[] offsets;
  private int doc = -1;
  private int freq;

  /**
   * @param terms postings with positions, one per token
   * @param offsets position of each token in the phrase
   */
  PhraseOccurrences(List<Postings> terms, int[] offsets) {
    this.terms = terms;
    this.offsets = offsets;
  }

  @Override
  int doc() {
    return doc;
  }

  @Override
  int freq() {
    return freq;
  }

  @Override
  int next() {
    int target = terms.getFirst().next();
    while (target != END) {
      int agreed = align(target);
      if (agreed == target) {
        freq = countAt();
        if (freq > 0) {
          return doc = target;
        }
        target = terms.getFirst().next();
      } else {
        target = agreed == END ? END : terms.getFirst().advance(agreed);
      }
    }
    return doc = END;
  }

  /** {@code target} if all terms stand in it, else a later document to try. */
  private int align(int target) {
    for (Postings term : terms) {
      int at = term.doc() < target ? term.advance(target) : term.doc();
      if (at != target) {
        return at;
      }
    }
    return target;
  }

  private int countAt() {
    int[][] positions = terms.stream().map(Postings::positions).toArray(int[][]::new);
    int count = 0;
    for (int start : positions[0]) {
      boolean all = true;
      for (int i = 1; i < positions.length && all; i++) {
        int wanted = start + offsets[i] - offsets[0];
        all = Arrays.binarySearch(positions[i], wanted) >= 0;
      }
      count += all ? 1 : 0;
    }
    return count;
  }
}
