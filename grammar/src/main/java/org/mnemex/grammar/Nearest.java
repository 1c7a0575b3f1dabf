package org.mnemex.grammar;

import java.util.Collection;
import java.util.Locale;
import org.apache.commons.text.similarity.LevenshteinDistance;
import org.jspecify.annotations.Nullable;

/** Finds the nearest name. */
final class Nearest {
  private Nearest() {}

  /** The candidate that differs in the fewest letters, at most every third, or null. */
  static @Nullable String to(String word, Collection<String> candidates) {
    int most = Math.max(1, (word.length() + 1) / 3);
    LevenshteinDistance distance = new LevenshteinDistance(most);
    String lower = word.toLowerCase(Locale.ROOT);
    String best = null;
    int fewest = most + 1;
    for (String candidate : candidates) {
      int edits = distance.apply(lower, candidate.toLowerCase(Locale.ROOT));
      if (edits >= 0 && edits < fewest) {
        best = candidate;
        fewest = edits;
      }
    }
    return best;
  }
}
