package org.mnemex.engine.text;

/**
 * The distance between two words in edits: insertions, deletions, replacements and swaps of
 * neighbours count one each (optimal string alignment, after Damerau 1964), in code points.
 */
public final class EditDistance {
  private EditDistance() {}

  /** The distance between two words. */
  public static int between(String a, String b) {
    int[][] table = table(a.codePoints().toArray(), b.codePoints().toArray());
    int[] last = table[table.length - 1];
    return last[last.length - 1];
  }

  /**
   * Whether a term is near enough to a word.
   *
   * @param same how many code points at the beginning must be right
   * @param prefix whether the beginning of the term is enough
   */
  public static boolean within(String word, String term, int edits, int same, boolean prefix) {
    int[] a = term.codePoints().toArray();
    int[] b = word.codePoints().toArray();
    for (int i = 0; i < Math.min(same, b.length); i++) {
      if (i >= a.length || a[i] != b[i]) {
        return false;
      }
    }
    int[][] table = table(a, b);
    if (!prefix) {
      return table[a.length][b.length] <= edits;
    }
    for (int[] row : table) {
      if (row[b.length] <= edits) {
        return true;
      }
    }
    return false;
  }

  private static int[][] table(int[] a, int[] b) {
    int[][] d = new int[a.length + 1][b.length + 1];
    for (int i = 0; i <= a.length; i++) {
      for (int j = 0; j <= b.length; j++) {
        if (i == 0 || j == 0) {
          d[i][j] = i + j;
          continue;
        }
        int replace = d[i - 1][j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1);
        d[i][j] = Math.min(replace, 1 + Math.min(d[i - 1][j], d[i][j - 1]));
        if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) {
          d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
        }
      }
    }
    return d;
  }
}
