package org.mnemex.bench;

import java.util.Arrays;
import java.util.HashSet;
import java.util.Random;
import java.util.Set;

/** Made-up words, of which few are frequent and most are rare, as in a language. */
public final class Vocabulary {
  private static final int SIZE = 400_000;

  private final String[] words = new String[SIZE];
  private final double[] share = new double[SIZE];

  /** Makes the words; they are always the same. */
  public Vocabulary() {
    Random random = new Random(7);
    Set<String> seen = new HashSet<>();
    double sum = 0;
    for (int rank = 0; rank < SIZE; rank++) {
      String word = make(random, rank);
      while (!seen.add(word)) {
        word = make(random, rank);
      }
      words[rank] = word;
      sum += 1 / Math.pow(rank + 2.7, 1.07);
      share[rank] = sum;
    }
    for (int rank = 0; rank < SIZE; rank++) {
      share[rank] /= sum;
    }
  }

  /** Frequent words are short. */
  private static String make(Random random, int rank) {
    String consonants = "bcdfghklmnprstvwz";
    String vowels = "aeiou";
    int syllables = rank < 100 ? 1 : rank < 5_000 ? 2 : rank < 60_000 ? 3 : 4;
    StringBuilder word = new StringBuilder();
    for (int i = 0; i < syllables; i++) {
      word.append(consonants.charAt(random.nextInt(consonants.length())));
      word.append(vowels.charAt(random.nextInt(vowels.length())));
    }
    if (random.nextInt(3) > 0) {
      word.append(consonants.charAt(random.nextInt(consonants.length())));
    }
    return word.toString();
  }

  /** The word of a rank, 0 for the most frequent. */
  public String word(int rank) {
    return words[rank];
  }

  /** A word of a text: frequent ones come often. */
  public String word(Random random) {
    int at = Arrays.binarySearch(share, random.nextDouble());
    return words[Math.min(SIZE - 1, at < 0 ? -1 - at : at)];
  }
}
