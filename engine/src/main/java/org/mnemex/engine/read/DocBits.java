package org.mnemex.engine.read;

import java.util.Arrays;

/** A set of a segment's documents, one bit each. */
public final class DocBits {
  private final long[] words;
  private final int size;

  /** An empty set over documents 0 to {@code size - 1}. */
  public DocBits(int size) {
    this.size = size;
    this.words = new long[(size + 63) >>> 6];
  }

  private DocBits(long[] words, int size) {
    this.words = words;
    this.size = size;
  }

  /** All documents. */
  public static DocBits all(int size) {
    DocBits bits = new DocBits(size);
    Arrays.fill(bits.words, -1L);
    bits.trim();
    return bits;
  }

  /** A set from the words of {@link #words()}. */
  public static DocBits of(long[] words, int size) {
    if (words.length != (size + 63) >>> 6) {
      throw new IllegalArgumentException(words.length + " words for " + size + " documents");
    }
    DocBits bits = new DocBits(words, size);
    bits.trim();
    return bits;
  }

  public DocBits copy() {
    return new DocBits(words.clone(), size);
  }

  public int size() {
    return size;
  }

  public void set(int doc) {
    words[doc >>> 6] |= 1L << doc;
  }

  public void clear(int doc) {
    words[doc >>> 6] &= ~(1L << doc);
  }

  public boolean get(int doc) {
    return (words[doc >>> 6] & 1L << doc) != 0;
  }

  /** How many are in the set. */
  public int count() {
    int count = 0;
    for (long word : words) {
      count += Long.bitCount(word);
    }
    return count;
  }

  /** How many from {@code from} to before {@code end} are in the set. */
  public int count(int from, int end) {
    int count = 0;
    int at = from;
    while (at < end) {
      long word = words[at >>> 6] >>> at;
      int left = Math.min(64 - (at & 63), end - at);
      count += Long.bitCount(left == 64 ? word : word & (1L << left) - 1);
      at += left;
    }
    return count;
  }

  /** The first member at or after {@code from}, or -1. */
  public int next(int from) {
    if (from >= size) {
      return -1;
    }
    int w = from >>> 6;
    long word = words[w] & -1L << from;
    while (word == 0) {
      if (++w == words.length) {
        return -1;
      }
      word = words[w];
    }
    return (w << 6) + Long.numberOfTrailingZeros(word);
  }

  public void and(DocBits other) {
    for (int i = 0; i < words.length; i++) {
      words[i] &= other.words[i];
    }
  }

  public void or(DocBits other) {
    for (int i = 0; i < words.length; i++) {
      words[i] |= other.words[i];
    }
  }

  public void andNot(DocBits other) {
    for (int i = 0; i < words.length; i++) {
      words[i] &= ~other.words[i];
    }
  }

  /** Removes all but those from {@code from} to before {@code end}. */
  public void keep(int from, int end) {
    Arrays.fill(words, 0, from >>> 6, 0);
    if ((from & 63) != 0) {
      words[from >>> 6] &= -1L << from;
    }
    if ((end & 63) != 0) {
      words[end >>> 6] &= (1L << end) - 1;
    }
    Arrays.fill(words, (end + 63) >>> 6, words.length, 0);
  }

  /** The number after the last member; 0 if there is none. */
  public int end() {
    for (int i = words.length - 1; i >= 0; i--) {
      if (words[i] != 0) {
        return (i << 6) + Long.SIZE - Long.numberOfLeadingZeros(words[i]);
      }
    }
    return 0;
  }

  /** Whether all members of another set are members of this one. */
  public boolean containsAll(DocBits other) {
    for (int i = 0; i < words.length; i++) {
      if ((other.words[i] & ~words[i]) != 0) {
        return false;
      }
    }
    return true;
  }

  /** The bits, 64 documents a word; not to be changed. */
  public long[] words() {
    return words;
  }

  private void trim() {
    if ((size & 63) != 0) {
      words[words.length - 1] &= (1L << size) - 1;
    }
  }
}
