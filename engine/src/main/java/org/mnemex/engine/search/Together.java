package org.mnemex.engine.search;

import java.util.Arrays;
import java.util.List;
import org.mnemex.engine.read.Postings;

/**
 * Documents in which words stand in a certain way to one another; each word may have alternatives.
 */
final class Together extends Occurrences {
  private final Postings[][] words;
  private final PositionMatch match;
  private final boolean shared;
  private final int[][] positions;
  private final int[] counts;
  private int doc = -1;
  private int freq;

  /**
   * @param words postings with positions, one or more alternatives a word
   * @param shared whether two words may have positions in common
   */
  Together(List<List<Postings>> words, PositionMatch match, boolean shared) {
    this.words = words.stream().map(w -> w.toArray(Postings[]::new)).toArray(Postings[][]::new);
    this.match = match;
    this.shared = shared;
    this.positions = new int[words.size()][8];
    this.counts = new int[words.size()];
  }

  @Override
  int doc() {
    return doc;
  }

  @Override
  double freq() {
    return freq;
  }

  @Override
  int next() {
    return advance(doc + 1);
  }

  @Override
  int advance(int target) {
    if (doc >= target) {
      return doc;
    }
    int wanted = target;
    while (wanted != END) {
      int agreed = align(wanted);
      if (agreed == wanted) {
        read();
        freq = match.count(positions, counts, shared);
        if (freq > 0) {
          return doc = wanted;
        }
        agreed = wanted + 1;
      }
      wanted = agreed;
    }
    return doc = END;
  }

  /** {@code target} if every word stands in it, else a later document to try. */
  private int align(int target) {
    for (Postings[] word : words) {
      int least = END;
      for (Postings alternative : word) {
        least = Math.min(least, alternative.advance(target));
      }
      if (least != target) {
        return least;
      }
    }
    return target;
  }

  private void read() {
    int at = words[0][0].doc();
    for (Postings alternative : words[0]) {
      at = Math.min(at, alternative.doc());
    }
    for (int word = 0; word < words.length; word++) {
      int used = 0;
      for (Postings alternative : words[word]) {
        if (alternative.doc() == at) {
          int[] read = alternative.positions();
          if (used + read.length > positions[word].length) {
            positions[word] = Arrays.copyOf(positions[word], 2 * (used + read.length));
          }
          System.arraycopy(read, 0, positions[word], used, read.length);
          used += read.length;
        }
      }
      if (words[word].length > 1) {
        Arrays.sort(positions[word], 0, used);
        used = distinct(positions[word], used);
      }
      counts[word] = used;
    }
  }

  private static int distinct(int[] sorted, int count) {
    int kept = 0;
    for (int i = 0; i < count; i++) {
      if (i == 0 || sorted[i] != sorted[i - 1]) {
        sorted[kept++] = sorted[i];
      }
    }
    return kept;
  }

  @Override
  long cost() {
    long least = Long.MAX_VALUE;
    for (Postings[] word : words) {
      least = Math.min(least, Arrays.stream(word).mapToLong(Postings::count).sum());
    }
    return least;
  }

  /**
   * There are no more matches than positions at which one can begin: those of the first word if the
   * order is fixed, those of the rarest word if all distances are, else those of any word.
   */
  @Override
  double bound(double[] factors) {
    double least = Double.MAX_VALUE;
    double sum = 0;
    for (Postings[] word : words) {
      double all = 0;
      for (Postings alternative : word) {
        all += alternative.bound(factors);
      }
      if (match.ordered()) {
        return all;
      }
      least = Math.min(least, all);
      sum += all;
    }
    return match.distance() == 0 ? least : sum;
  }
}
