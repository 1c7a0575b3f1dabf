package org.mnemex.engine.text;

import java.util.Arrays;
import java.util.Collection;
import java.util.HashSet;
import java.util.Set;
import java.util.SplittableRandom;

/** A set of words that can be asked for a token's text without making a string of it. */
final class WordSet {
  /** Random, so that nobody can choose words that collide. */
  private static final int SEED = new SplittableRandom().nextInt();

  private final char[][] slots;
  private final int longest;

  WordSet(Collection<String> given) {
    Set<String> words = new HashSet<>(given);
    int size = 16;
    while (size < 3 * words.size()) {
      size *= 2;
    }
    slots = new char[size][];
    int most = 0;
    for (String word : words) {
      char[] chars = word.toCharArray();
      most = Math.max(most, chars.length);
      int slot = hash(chars, chars.length) & size - 1;
      while (slots[slot] != null) {
        slot = slot + 1 & size - 1;
      }
      slots[slot] = chars;
    }
    longest = most;
  }

  boolean contains(char[] chars, int length) {
    if (length > longest) {
      return false;
    }
    int slot = hash(chars, length) & slots.length - 1;
    while (slots[slot] != null) {
      if (Arrays.equals(slots[slot], 0, slots[slot].length, chars, 0, length)) {
        return true;
      }
      slot = slot + 1 & slots.length - 1;
    }
    return false;
  }

  static int hash(char[] chars, int length) {
    int hash = SEED;
    for (int i = 0; i < length; i++) {
      hash = (hash ^ chars[i]) * 0x01000193;
    }
    return hash ^ hash >>> 15;
  }
}
