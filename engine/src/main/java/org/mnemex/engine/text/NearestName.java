package org.mnemex.engine.text;

import java.util.Collection;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** Finds the nearest name. */
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
      int distance = EditDistance.between(lower, candidate.toLowerCase(Locale.ROOT));
      if (distance < bestDistance) {
        best = candidate;
        bestDistance = distance;
      }
    }
    return best;
  }
}
