package org.mnemex.engine.write;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import java.util.Arrays;
import java.util.SplittableRandom;

/**
 * Numbers byte strings in the order in which they are first seen. All strings are stored one after
 * another in one array; a hash table with linear probing finds them. A slot holds hash and number +
 * 1.
 */
final class TermTable {
  /** So few strings are put in order by insertion. */
  private static final int FEW = 12;

  /** Number and length before each string. */
  private static final int HEADER_BYTES = 8;

  private static final VarHandle INTS =
      MethodHandles.byteArrayViewVarHandle(int[].class, ByteOrder.nativeOrder());

  private static final VarHandle LONGS =
      MethodHandles.byteArrayViewVarHandle(long[].class, ByteOrder.nativeOrder());

  private final long seed = new SplittableRandom().nextLong();

  /** Byte 0 is not used, so that a slot of 0 is empty. */
  private byte[] pool = new byte[1024];

  private int[] starts = new int[64];
  private int used = 1;
  private long[] slots = new long[256];
  private int size;

  int size() {
    return size;
  }

  /** Estimate of the heap in use. */
  long bytes() {
    return pool.length + 4L * (starts.length + 2L * slots.length);
  }

  /** The number of a string, from 0; a new one if it was not seen before. */
  int number(byte[] bytes, int length) {
    int hash = hash(bytes, length);
    int mask = slots.length - 1;
    int slot = hash & mask;
    while (slots[slot] != 0) {
      if ((int) (slots[slot] >>> 32) == hash) {
        int at = (int) slots[slot];
        if (length(at) == length
            && Arrays.equals(
                pool, at + HEADER_BYTES, at + HEADER_BYTES + length, bytes, 0, length)) {
          return (int) INTS.get(pool, at);
        }
      }
      slot = slot + 1 & mask;
    }
    slots[slot] = (long) hash << 32 | used;
    append(bytes, length);
    if (2 * size > slots.length) {
      grow();
    }
    return size - 1;
  }

  private int length(int at) {
    return (int) INTS.get(pool, at + 4);
  }

  private void append(byte[] bytes, int length) {
    if (size == starts.length) {
      starts = Arrays.copyOf(starts, 2 * size);
    }
    int end = used + HEADER_BYTES + length;
    if (end > pool.length) {
      pool = Arrays.copyOf(pool, Math.max(end, Math.multiplyExact(2, pool.length)));
    }
    INTS.set(pool, used, size);
    INTS.set(pool, used + 4, length);
    System.arraycopy(bytes, 0, pool, used + HEADER_BYTES, length);
    starts[size++] = used;
    used = end;
  }

  private void grow() {
    long[] larger = new long[2 * slots.length];
    int mask = larger.length - 1;
    for (long entry : slots) {
      if (entry != 0) {
        int slot = (int) (entry >>> 32) & mask;
        while (larger[slot] != 0) {
          slot = slot + 1 & mask;
        }
        larger[slot] = entry;
      }
    }
    slots = larger;
  }

  private int start(int number) {
    return starts[number] + HEADER_BYTES;
  }

  private int end(int number) {
    return starts[number] + HEADER_BYTES + length(starts[number]);
  }

  /** A string by its number. */
  byte[] get(int number) {
    return Arrays.copyOfRange(pool, start(number), end(number));
  }

  /**
   * All numbers in the order of their strings' unsigned bytes, by multikey quicksort (Bentley and
   * Sedgewick, "Fast Algorithms for Sorting and Searching Strings", SODA 1997).
   */
  int[] inOrder() {
    int[] order = new int[size];
    Arrays.setAll(order, i -> i);
    sort(order, 0, size, 0);
    return order;
  }

  private void sort(int[] order, int from, int end, int depth) {
    while (end - from > FEW) {
      int pivot = unit(order[from + (end - from) / 2], depth);
      int below = from;
      int above = end;
      int at = from;
      while (at < above) {
        int unit = unit(order[at], depth);
        if (unit < pivot) {
          swap(order, below++, at++);
        } else if (unit > pivot) {
          swap(order, at, --above);
        } else {
          at++;
        }
      }
      // The largest part comes last, without a call: so calls nest no deeper than log2 n.
      int less = below - from;
      int equal = pivot < 0 ? 0 : above - below;
      int more = end - above;
      if (equal >= less && equal >= more) {
        sort(order, from, below, depth);
        sort(order, above, end, depth);
        from = below;
        end = above;
        depth++;
        continue;
      }
      if (equal > 0) {
        sort(order, below, above, depth + 1);
      }
      if (less >= more) {
        sort(order, above, end, depth);
        end = below;
      } else {
        sort(order, from, below, depth);
        from = above;
      }
    }
    for (int i = from + 1; i < end; i++) {
      for (int k = i; k > from && isBefore(order[k], order[k - 1], depth); k--) {
        swap(order, k, k - 1);
      }
    }
  }

  private static void swap(int[] order, int a, int b) {
    int kept = order[a];
    order[a] = order[b];
    order[b] = kept;
  }

  /** The byte of a string at a depth; -1 after its end. */
  private int unit(int number, int depth) {
    int at = start(number) + depth;
    return at < end(number) ? pool[at] & 0xFF : -1;
  }

  private boolean isBefore(int a, int b, int depth) {
    return Arrays.compareUnsigned(
            pool,
            Math.min(end(a), start(a) + depth),
            end(a),
            pool,
            Math.min(end(b), start(b) + depth),
            end(b))
        < 0;
  }

  /**
   * Seeded at random, so that nobody can choose strings that collide. Groups of eight bytes are
   * multiplied into both halves of a product (the folding multiplication of wyhash and its
   * relatives), which mixes the seed into every bit.
   */
  private int hash(byte[] bytes, int length) {
    long hash = seed ^ length;
    int at = 0;
    for (; at + 8 <= length; at += 8) {
      hash = mix(hash ^ (long) LONGS.get(bytes, at));
    }
    long rest = 0;
    for (; at < length; at++) {
      rest = rest << 8 | bytes[at] & 0xFF;
    }
    hash = mix(hash ^ rest);
    return (int) (hash ^ hash >>> 32);
  }

  private long mix(long value) {
    long factor = seed | 1;
    return value * factor ^ Math.multiplyHigh(value, factor);
  }
}
