package org.mnemex.engine.text;

import java.util.Arrays;

/**
 * Edit distances of one word to many others, which come in order: those that begin alike share the
 * rows of the table, one for every character (optimal string alignment, after Damerau 1964).
 */
public final class EditTable {
  private final int[] wanted;
  private int[][] rows = new int[32][];
  private int[] bests = new int[32];
  private int[] leasts = new int[32];
  private int depth;

  /**
   * @param wanted code points of the word
   */
  public EditTable(int[] wanted) {
    this.wanted = wanted.clone();
    rows[0] = new int[wanted.length + 1];
    Arrays.setAll(rows[0], i -> i);
    bests[0] = wanted.length;
  }

  /** How many characters of the other word have been added. */
  public int depth() {
    return depth;
  }

  /** Forgets all characters but the first ones. */
  public void backTo(int characters) {
    depth = Math.min(depth, characters);
  }

  /** The distance to all characters so far. */
  public int last() {
    return rows[depth][wanted.length];
  }

  /** The distance to the nearest beginning of the characters so far. */
  public int best() {
    return bests[depth];
  }

  /** No word that begins so is nearer. */
  public int least() {
    return leasts[depth];
  }

  /**
   * Adds the row of the next character.
   *
   * @param points code points of the other word; the one at {@link #depth()} is added
   */
  public void add(int[] points) {
    int at = depth++;
    if (depth == rows.length) {
      rows = Arrays.copyOf(rows, 2 * depth);
      bests = Arrays.copyOf(bests, 2 * depth);
      leasts = Arrays.copyOf(leasts, 2 * depth);
    }
    int[] above = rows[at];
    int[] row = rows[depth] == null ? new int[wanted.length + 1] : rows[depth];
    rows[depth] = row;
    row[0] = depth;
    int least = depth;
    for (int i = 1; i <= wanted.length; i++) {
      int replace = above[i - 1] + (wanted[i - 1] == points[at] ? 0 : 1);
      int value = Math.min(replace, 1 + Math.min(above[i], row[i - 1]));
      if (at > 0 && i > 1 && wanted[i - 1] == points[at - 1] && wanted[i - 2] == points[at]) {
        value = Math.min(value, rows[at - 1][i - 2] + 1);
      }
      row[i] = value;
      least = Math.min(least, value);
    }
    leasts[depth] = least;
    bests[depth] = Math.min(bests[at], row[wanted.length]);
  }
}
