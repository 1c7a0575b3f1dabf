package org.mnemex.engine.search;

import java.util.Arrays;

/**
 * How words must stand to one another.
 *
 * @param offsets where each word stands in a phrase, from the first; for words near one another all
 *     0
 * @param distance by how many positions the words may be out of these places: the difference
 *     between the one that is furthest ahead and the one furthest behind
 * @param ordered for words near one another: whether they must stand in the order given
 */
record PositionMatch(int[] offsets, int distance, boolean ordered) {

  /**
   * How many matches there are: positions at which a match begins, counted once each, taking
   * positions relative to the words' offsets. One word cannot stand for two of the query.
   *
   * @param positions of each word, ascending
   * @param counts how many of each array are valid
   * @param shared whether two words of the query may have positions in common
   */
  int count(int[][] positions, int[] counts, boolean shared) {
    if (ordered) {
      return ordered(positions, counts);
    }
    if (distance == 0) {
      return exact(positions, counts);
    }
    int matches = 0;
    int last = Integer.MIN_VALUE;
    int[] at = new int[positions.length];
    while (true) {
      int start = Integer.MAX_VALUE;
      for (int word = 0; word < positions.length; word++) {
        while (at[word] < counts[word] && positions[word][at[word]] - offsets[word] <= last) {
          at[word]++;
        }
        if (at[word] < counts[word]) {
          start = Math.min(start, positions[word][at[word]] - offsets[word]);
        }
      }
      if (start == Integer.MAX_VALUE) {
        return matches;
      }
      matches += matchesFrom(start, positions, counts, at, shared) ? 1 : 0;
      last = start;
    }
  }

  /** Whether every word has a position of its own in the window that begins at {@code start}. */
  private boolean matchesFrom(
      int start, int[][] positions, int[] counts, int[] at, boolean shared) {
    for (int word = 0; word < positions.length; word++) {
      if (at[word] >= counts[word]
          || positions[word][at[word]] - offsets[word] > start + distance) {
        return false;
      }
    }
    return !shared || choose(0, start, positions, counts, at, new int[positions.length], false);
  }

  private boolean choose(
      int word,
      int start,
      int[][] positions,
      int[] counts,
      int[] at,
      int[] chosen,
      boolean begins) {
    if (word == positions.length) {
      return begins;
    }
    for (int i = at[word]; i < counts[word]; i++) {
      int position = positions[word][i];
      int relative = position - offsets[word];
      if (relative > start + distance) {
        return false;
      }
      boolean free = true;
      for (int before = 0; before < word && free; before++) {
        free = chosen[before] != position;
      }
      if (free) {
        chosen[word] = position;
        if (choose(word + 1, start, positions, counts, at, chosen, begins || relative == start)) {
          return true;
        }
      }
    }
    return false;
  }

  private int exact(int[][] positions, int[] counts) {
    int matches = 0;
    for (int i = 0; i < counts[0]; i++) {
      boolean all = true;
      for (int word = 1; word < positions.length && all; word++) {
        int wanted = positions[0][i] + offsets[word] - offsets[0];
        all = Arrays.binarySearch(positions[word], 0, counts[word], wanted) >= 0;
      }
      matches += all ? 1 : 0;
    }
    return matches;
  }

  private int ordered(int[][] positions, int[] counts) {
    int matches = 0;
    for (int i = 0; i < counts[0]; i++) {
      int last = positions[0][i];
      boolean all = true;
      for (int word = 1; word < positions.length && all; word++) {
        int next = Arrays.binarySearch(positions[word], 0, counts[word], last + 1);
        next = next < 0 ? -1 - next : next;
        all = next < counts[word];
        last = all ? positions[word][next] : last;
      }
      matches += all && last - positions[0][i] <= distance ? 1 : 0;
    }
    return matches;
  }
}
