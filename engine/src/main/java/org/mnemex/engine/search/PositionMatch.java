package org.mnemex.engine.search;

import java.util.Arrays;

/**
 * How words must stand to one another.
 *
 * @param offsets where each word stands in a phrase, from the first; for words near one another all
 *     0
 * @param lengths how many positions each word covers
 * @param distance by how many positions the words may be out of these places: the difference
 *     between the one that is furthest ahead and the one furthest behind
 * @param ordered for words near one another: whether they must stand in the order given
 */
record PositionMatch(int[] offsets, int[] lengths, int distance, boolean ordered) {
  /** No two values of a field have words as close together. */
  static final int MAX_DISTANCE = 100;

  /** Words of one position each. */
  PositionMatch(int[] offsets, int distance, boolean ordered) {
    this(offsets, ones(offsets.length), distance, ordered);
  }

  private static int[] ones(int count) {
    int[] ones = new int[count];
    Arrays.fill(ones, 1);
    return ones;
  }

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
    int longest = 1;
    for (int word = 0; word < positions.length; word++) {
      if (begins(word, start, positions, counts, at)) {
        longest = Math.max(longest, lengths[word]);
      }
    }
    int end = start + reach(longest);
    for (int word = 0; word < positions.length; word++) {
      if (at[word] >= counts[word] || positions[word][at[word]] - offsets[word] > end) {
        return false;
      }
    }
    if (!shared) {
      return true;
    }
    for (int word = 0; word < positions.length; word++) {
      if (begins(word, start, positions, counts, at)
          && new Assignment(positions, counts, at, end).existsWith(word)) {
        return true;
      }
    }
    return false;
  }

  private boolean begins(int word, int start, int[][] positions, int[] counts, int[] at) {
    return at[word] < counts[word] && positions[word][at[word]] - offsets[word] == start;
  }

  /** How far behind the beginning of the first word another one may begin. */
  private int reach(int lengthOfFirst) {
    return Math.min(distance + lengthOfFirst - 1, Math.max(distance, MAX_DISTANCE));
  }

  /**
   * Gives every word a position of its own: a matching of words and positions, grown by augmenting
   * paths (Kuhn, "The Hungarian Method for the Assignment Problem", 1955).
   */
  private final class Assignment {
    private final int[][] positions;
    private final int[] counts;
    private final int[] at;
    private final int end;
    private final int[] chosen;
    private final boolean[] asked;

    Assignment(int[][] positions, int[] counts, int[] at, int end) {
      this.positions = positions;
      this.counts = counts;
      this.at = at;
      this.end = end;
      this.chosen = new int[positions.length];
      this.asked = new boolean[positions.length];
      Arrays.fill(chosen, -1);
    }

    /** Whether there is one in which a word has the first of its positions. */
    boolean existsWith(int first) {
      chosen[first] = positions[first][at[first]];
      for (int word = 0; word < positions.length; word++) {
        if (word != first) {
          Arrays.fill(asked, false);
          asked[first] = true;
          if (!give(word)) {
            return false;
          }
        }
      }
      return true;
    }

    /** Gives a word a position, for which others may have to take another one. */
    private boolean give(int word) {
      asked[word] = true;
      for (int i = at[word]; i < counts[word]; i++) {
        int position = positions[word][i];
        if (position - offsets[word] > end) {
          return false;
        }
        int owner = owner(position);
        if (owner < 0 || !asked[owner] && give(owner)) {
          chosen[word] = position;
          return true;
        }
      }
      return false;
    }

    private int owner(int position) {
      for (int word = 0; word < chosen.length; word++) {
        if (chosen[word] == position) {
          return word;
        }
      }
      return -1;
    }
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
        int from = last + lengths[word - 1];
        int next = Arrays.binarySearch(positions[word], 0, counts[word], from);
        next = next < 0 ? -1 - next : next;
        all = next < counts[word];
        last = all ? positions[word][next] : last;
      }
      matches += all && last - positions[0][i] <= reach(lengths[0]) ? 1 : 0;
    }
    return matches;
  }
}
