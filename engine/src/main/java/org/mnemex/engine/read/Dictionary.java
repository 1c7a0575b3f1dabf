package org.mnemex.engine.read;

import java.util.Arrays;
import org.mnemex.engine.store.Bytes;

/**
 * Byte strings in order of their unsigned bytes, each with the same number of numbers. Places count
 * from 0. The strings are prefix-coded in blocks of 16; a lookup is a binary search over the
 * blocks' first strings, which stand whole, so nothing has to be kept on the heap.
 *
 * <pre>
 * blocks: 16 entries each, the last may have fewer
 *   first entry    length varint, bytes
 *   other entries  bytes shared with the one before varint, length of the rest varint, rest
 *   each followed by its numbers, varint
 * offset u64 × blocks
 * count u32, numbers an entry u8, mask of growing numbers u8, two zero bytes
 * </pre>
 *
 * <p>A growing number is stored as the difference to the entry before in the same block.
 */
public final class Dictionary {
  /** Entries in a block. */
  public static final int BLOCK = 16;

  private final Bytes bytes;
  private final int count;
  private final int blocks;
  private final int numbers;
  private final int growing;
  private final long offsets;

  public Dictionary(Bytes bytes) {
    this.bytes = bytes;
    long trailer = bytes.length() - 8;
    this.count = bytes.intAt(trailer);
    this.numbers = bytes.byteAt(trailer + 4);
    this.growing = bytes.byteAt(trailer + 5);
    this.blocks = (count + BLOCK - 1) / BLOCK;
    this.offsets = trailer - 8L * blocks;
  }

  public int size() {
    return count;
  }

  /** The string at a place. */
  public byte[] get(int place) {
    Walk walk = walk();
    walk.goTo(place);
    return walk.term();
  }

  /** The place of {@code wanted}, or -1 minus the place where it would stand. */
  public int find(byte[] wanted) {
    Walk walk = walk();
    return walk.seek(wanted) ? walk.place() : -1 - walk.place();
  }

  /** A walk that stands before the first string. */
  public Walk walk() {
    return new Walk();
  }

  /** Finds strings one after the other. */
  public Lookup lookup() {
    return new Lookup();
  }

  /**
   * Finds strings without going through them: of an entry it reads no more than tells it from what
   * is wanted, and it looks first near what it found last, so it is fastest where they come nearly
   * in order. Belongs to one thread.
   */
  public final class Lookup {
    private final Bytes in = bytes.at(0);
    private int block = -1;

    /** The first number of a string; -1 if it is not there. */
    public long number(byte[] wanted) {
      if (count == 0) {
        return -1;
      }
      block = blockOf(wanted);
      in.seek(bytes.longAt(offsets + 8L * block));
      long number = 0;
      // How many bytes the entry before has in common with what is wanted, which comes after it.
      int common = 0;
      int left = Math.min(BLOCK, count - block * BLOCK);
      for (int i = 0; i < left; i++) {
        int shared = i == 0 ? 0 : in.readVarInt();
        int rest = in.readVarInt();
        long end = in.position() + rest;
        boolean found = false;
        if (shared < common) {
          return -1;
        }
        if (shared == common) {
          int same = in.common(rest, wanted, common);
          common += same;
          found = same == rest && common == wanted.length;
          boolean isAfter =
              same < rest
                  && (common == wanted.length
                      || bytes.byteAt(in.position() + same) > (wanted[common] & 0xFF));
          if (isAfter) {
            return -1;
          }
        }
        in.seek(end);
        number = readNumbers(number);
        if (found) {
          return number;
        }
      }
      return -1;
    }

    private long readNumbers(long before) {
      long first = 0;
      for (int i = 0; i < numbers; i++) {
        long value = in.readVarLong();
        first = i > 0 ? first : (growing & 1) == 0 ? value : before + value;
      }
      return first;
    }

    /** The block in which a string stands, if it is anywhere. */
    private int blockOf(byte[] wanted) {
      if (block >= 0 && !isBefore(wanted, block)) {
        for (int next = block + 1; next <= block + 2; next++) {
          if (next == blocks || isBefore(wanted, next)) {
            return next - 1;
          }
        }
      }
      return lastBlockUpTo(in, wanted);
    }

    private boolean isBefore(byte[] wanted, int first) {
      return compareFirst(in, first, wanted) > 0;
    }
  }

  /** Compares the first string of a block with {@code wanted}. */
  private int compareFirst(Bytes in, int block, byte[] wanted) {
    in.seek(bytes.longAt(offsets + 8L * block));
    int length = in.readVarInt();
    return in.compare(in.position(), length, wanted);
  }

  /** The last block whose first string is not after {@code wanted}; the first if there is none. */
  private int lastBlockUpTo(Bytes in, byte[] wanted) {
    int low = 0;
    int high = blocks - 1;
    while (low < high) {
      int middle = (low + high + 1) >>> 1;
      if (compareFirst(in, middle, wanted) <= 0) {
        low = middle;
      } else {
        high = middle - 1;
      }
    }
    return low;
  }

  /** Goes through the strings in order; belongs to one thread. */
  public final class Walk {
    private final Bytes in = bytes.at(0);
    private final long[] values = new long[numbers];
    private byte[] term = new byte[32];
    private int length;
    private int place = -1;

    /** The current place; {@link Dictionary#size()} after the last string. */
    public int place() {
      return place;
    }

    /** Whether it stands at a string. */
    public boolean hasCurrent() {
      return place >= 0 && place < count;
    }

    /** Goes to the next string; false if there is none. */
    public boolean next() {
      if (place + 1 >= count) {
        place = count;
        return false;
      }
      place++;
      if (place % BLOCK == 0) {
        in.seek(bytes.longAt(offsets + 8L * (place / BLOCK)));
        length = 0;
        Arrays.fill(values, 0);
        read(0, in.readVarInt());
      } else {
        int shared = in.readVarInt();
        read(shared, in.readVarInt());
      }
      return true;
    }

    private void read(int shared, int rest) {
      length = shared + rest;
      if (length > term.length) {
        term = Arrays.copyOf(term, Math.max(length, 2 * term.length));
      }
      in.readInto(term, shared, rest);
      for (int i = 0; i < numbers; i++) {
        long value = in.readVarLong();
        values[i] = (growing & 1 << i) == 0 ? value : values[i] + value;
      }
    }

    /** Goes to a place from 0 to size - 1. */
    public void goTo(int wanted) {
      if (wanted < 0 || wanted >= count) {
        throw new IndexOutOfBoundsException("place " + wanted + " of " + count);
      }
      if (place > wanted || place / BLOCK != wanted / BLOCK || place < 0) {
        place = wanted / BLOCK * BLOCK - 1;
      }
      while (place < wanted) {
        next();
      }
    }

    /**
     * Goes to {@code wanted}, or to the first string after it.
     *
     * @return whether {@code wanted} is there
     */
    public boolean seek(byte[] wanted) {
      place = lastBlockUpTo(in, wanted) * BLOCK - 1;
      while (next()) {
        int comparison = compareTo(wanted);
        if (comparison >= 0) {
          return comparison == 0;
        }
      }
      return false;
    }

    /** Compares the current string with {@code other}. */
    public int compareTo(byte[] other) {
      return Arrays.compareUnsigned(term, 0, length, other, 0, other.length);
    }

    /** Whether the current string begins with {@code prefix}. */
    public boolean startsWith(byte[] prefix) {
      return length >= prefix.length
          && Arrays.equals(term, 0, prefix.length, prefix, 0, prefix.length);
    }

    /** The current string, as a copy. */
    public byte[] term() {
      return Arrays.copyOf(term, length);
    }

    /**
     * The current string; only the first {@link #length()} bytes are valid, until the next move.
     */
    public byte[] buffer() {
      return term;
    }

    public int length() {
      return length;
    }

    /** A number of the current string. */
    public long number(int which) {
      return values[which];
    }
  }
}
