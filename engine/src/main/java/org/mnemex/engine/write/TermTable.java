package org.mnemex.engine.write;

import java.util.Arrays;

/**
 * Numbers byte strings in the order in which they are first seen. All strings stand behind one
 * another in one array; a hash table with linear probing finds them.
 */
final class TermTable {
  private byte[] pool = new byte[1024];
  private int[] ends = new int[64];
  private int[] hashes = new int[64];
  private int[] slots = new int[256];
  private int size;

  int size() {
    return size;
  }

  /** Estimate of the heap in use. */
  long bytes() {
    return pool.length + 4L * (ends.length + hashes.length + slots.length);
  }

  /** The number of a string, from 0; a new one if it was not seen before. */
  int number(byte[] bytes, int length) {
    int hash = hash(bytes, length);
    int mask = slots.length - 1;
    int slot = hash & mask;
    while (slots[slot] != 0) {
      int number = slots[slot] - 1;
      if (hashes[number] == hash && isAt(number, bytes, length)) {
        return number;
      }
      slot = slot + 1 & mask;
    }
    slots[slot] = ++size;
    append(bytes, length, hash);
    if (2 * size > slots.length) {
      grow();
    }
    return size - 1;
  }

  private boolean isAt(int number, byte[] bytes, int length) {
    int start = start(number);
    return ends[number] - start == length
        && Arrays.equals(pool, start, ends[number], bytes, 0, length);
  }

  private void append(byte[] bytes, int length, int hash) {
    if (size > ends.length) {
      ends = Arrays.copyOf(ends, 2 * ends.length);
      hashes = Arrays.copyOf(hashes, 2 * hashes.length);
    }
    int start = start(size - 1);
    if (start + length > pool.length) {
      pool = Arrays.copyOf(pool, Math.max(start + length, Math.multiplyExact(2, pool.length)));
    }
    System.arraycopy(bytes, 0, pool, start, length);
    ends[size - 1] = start + length;
    hashes[size - 1] = hash;
  }

  private void grow() {
    int[] larger = new int[2 * slots.length];
    int mask = larger.length - 1;
    for (int number = 0; number < size; number++) {
      int slot = hashes[number] & mask;
      while (larger[slot] != 0) {
        slot = slot + 1 & mask;
      }
      larger[slot] = number + 1;
    }
    slots = larger;
  }

  private int start(int number) {
    return number == 0 ? 0 : ends[number - 1];
  }

  /** A string by its number. */
  byte[] get(int number) {
    return Arrays.copyOfRange(pool, start(number), ends[number]);
  }

  /** All numbers in the order of their strings' unsigned bytes. */
  int[] inOrder() {
    Integer[] order = new Integer[size];
    Arrays.setAll(order, i -> i);
    Arrays.sort(
        order, (a, b) -> Arrays.compareUnsigned(pool, start(a), ends[a], pool, start(b), ends[b]));
    int[] out = new int[size];
    Arrays.setAll(out, i -> order[i]);
    return out;
  }

  private static int hash(byte[] bytes, int length) {
    int hash = 0x811C9DC5;
    for (int i = 0; i < length; i++) {
      hash = (hash ^ bytes[i]) * 0x01000193;
    }
    return hash ^ hash >>> 15;
  }
}
