package org.mnemex.engine.schema;

import java.util.Collection;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** Finds what somebody most likely meant. */
public final class NearestName {
  private NearestName() {}

  /**
   * The candidate with the smallest edit distance (insertions, deletions, replacements and swaps of
   * neighbours count one each), if that is at most a third of the word's length, else null.
   */
  public static @Nullable String to(String word, Collection<String> candidates) {
    String best = null;
    int bestDistance = Math.max(1, word.length() / 3) + 1;
    String lower = word.toLowerCase(Locale.ROOT);
    for (String candidate : candidates) {
      int distance = distance(lower, candidate.toLowerCase(Locale.ROOT));
      if (distance < bestDistance) {
        best = candidate;
        bestDistance = distance;
      }
    }
    return best;
  }

  private static int distance(String a, String b) {
    int[][] d = new int[a.length() + 1][b.length() + 1];
    for (int i = 0; i <= a.length(); i++) {
      for (int j = 0; j <= b.length(); j++) {
        if (i == 0 || j == 0) {
          d[i][j] = i + j;
          continue;
        }
        int replace = d[i - 1][j - 1] + (a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1);
        d[i][j] = Math.min(replace, 1 + Math.min(d[i - 1][j], d[i][j - 1]));
        if (i > 1
            && j > 1
            && a.charAt(i - 1) == b.charAt(j - 2)
            && a.charAt(i - 2) == b.charAt(j - 1)) {
          d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
        }
      }
    }
    return d[a.length()][b.length()];
  }
}
