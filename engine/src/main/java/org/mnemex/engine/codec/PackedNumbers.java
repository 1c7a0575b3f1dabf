package org.mnemex.engine.codec;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.store.Bytes;

/**
 * A long list of numbers that can be read at any place: frame of reference (Goldstein, Ramakrishnan
 * and Shaft, ICDE 1998) in blocks of 1,024 with a slope, so that constant and evenly growing blocks
 * take no bits at all.
 *
 * <pre>
 * block data: width bits a number, low ones first, each block filled up to 8 bytes
 * table, 40 bytes a block:
 *    0  i64  base
 *    8  i64  least value
 *   16  i64  greatest value
 *   24  u64  offset of the block's data
 *   32  i32  step
 *   36  u8   width in bits: 0 to 56, or 64
 *   37       three zero bytes
 * count u64
 * </pre>
 *
 * <p>Number i of a block is {@code base + step × i + its bits}, modulo 2^64.
 */
public final class PackedNumbers {
  /** Numbers in a block; the last one may have fewer. */
  public static final int BLOCK = 1024;

  static final int ENTRY_BYTES = 40;
  private static final VarHandle LONGS =
      MethodHandles.byteArrayViewVarHandle(long[].class, ByteOrder.LITTLE_ENDIAN);

  private final Bytes bytes;
  private final long count;
  private final long table;

  /** The numbers that a {@link PackedNumbersWriter} wrote to a section. */
  public PackedNumbers(Bytes section) {
    this.bytes = section;
    this.count = section.longAt(section.length() - 8);
    this.table = section.length() - 8 - ENTRY_BYTES * ((count + BLOCK - 1) / BLOCK);
  }

  public long size() {
    return count;
  }

  /** How many blocks there are. */
  public int blocks() {
    return (int) ((count + BLOCK - 1) / BLOCK);
  }

  /** How many numbers a block has. */
  public int blockSize(int block) {
    return (int) Math.min(BLOCK, count - (long) block * BLOCK);
  }

  /** The least number of a block. */
  public long least(int block) {
    return bytes.longAt(table + (long) ENTRY_BYTES * block + 8);
  }

  /** The greatest number of a block. */
  public long greatest(int block) {
    return bytes.longAt(table + (long) ENTRY_BYTES * block + 16);
  }

  /** The number at a place. */
  public long get(long place) {
    long entry = table + ENTRY_BYTES * (place >>> 10);
    int in = (int) (place & (BLOCK - 1));
    long base = bytes.longAt(entry) + (long) bytes.intAt(entry + 32) * in;
    int width = bytes.byteAt(entry + 36);
    if (width == 0) {
      return base;
    }
    long data = bytes.longAt(entry + 24);
    if (width == 64) {
      return base + bytes.longAt(data + 8L * in);
    }
    long bit = (long) in * width;
    long mask = (1L << width) - 1;
    return base + (bytes.longAt(data + (bit >>> 3)) >>> (bit & 7) & mask);
  }

  /** Reads block after block; one per thread. */
  public final class Scan {
    private final byte[] packed = new byte[8 * BLOCK + 8];
    private final long[] values = new long[BLOCK];

    /** The numbers of a block; only the first {@link #blockSize} are valid, until the next call. */
    public long[] block(int block) {
      long entry = table + (long) ENTRY_BYTES * block;
      int size = blockSize(block);
      long base = bytes.longAt(entry);
      long step = bytes.intAt(entry + 32);
      int width = bytes.byteAt(entry + 36);
      if (width == 0) {
        for (int i = 0; i < size; i++) {
          values[i] = base + step * i;
        }
        return values;
      }
      bytes.copy(bytes.longAt(entry + 24), packed, (size * width + 7) >>> 3);
      unpack(size, width);
      if (step == 0) {
        for (int i = 0; i < size; i++) {
          values[i] += base;
        }
      } else {
        for (int i = 0; i < size; i++) {
          values[i] += base + step * i;
        }
      }
      return values;
    }

    /**
     * Counts the numbers of a block, each at its distance from {@code least}. Neighbours go to two
     * arrays in turn, so that a number that repeats need not wait for the count before it.
     *
     * @param even counts of every other number; may be the same array as {@code odd}
     */
    public void count(int block, long least, int[] even, int[] odd) {
      long entry = table + (long) ENTRY_BYTES * block;
      int size = blockSize(block);
      int width = bytes.byteAt(entry + 36);
      int offset = (int) (bytes.longAt(entry) - least);
      if (bytes.intAt(entry + 32) != 0 || width > 31) {
        long[] numbers = block(block);
        for (int i = 0; i < size; i++) {
          even[(int) (numbers[i] - least)]++;
        }
      } else if (width == 0) {
        even[offset] += size;
      } else {
        bytes.copy(bytes.longAt(entry + 24), packed, (size * width + 7) >>> 3);
        countPacked(size, width, offset, even, odd);
      }
    }

    private void countPacked(int size, int width, int offset, int[] even, int[] odd) {
      byte[] from = packed;
      int mask = (1 << width) - 1;
      int i = 0;
      int bit = 0;
      if (width <= 14) {
        // 7 bits may be before the first one, so that four fit into what one read gives.
        for (; i + 3 < size; i += 4, bit += 4 * width) {
          long four = (long) LONGS.get(from, bit >>> 3) >>> (bit & 7);
          even[offset + ((int) four & mask)]++;
          odd[offset + ((int) (four >>> width) & mask)]++;
          even[offset + ((int) (four >>> 2 * width) & mask)]++;
          odd[offset + ((int) (four >>> 3 * width) & mask)]++;
        }
      }
      for (; i < size; i++, bit += width) {
        even[offset + ((int) ((long) LONGS.get(from, bit >>> 3) >>> (bit & 7)) & mask)]++;
      }
    }

    private void unpack(int size, int width) {
      byte[] from = packed;
      long[] to = values;
      if (width == 64) {
        for (int i = 0; i < size; i++) {
          to[i] = (long) LONGS.get(from, 8 * i);
        }
        return;
      }
      long mask = (1L << width) - 1;
      for (int i = 0, bit = 0; i < size; i++, bit += width) {
        to[i] = (long) LONGS.get(from, bit >>> 3) >>> (bit & 7) & mask;
      }
    }
  }

  /**
   * Reads number after number, and unpacks a block once many of it were asked for. For places that
   * mostly ascend; one per thread.
   */
  public final class Walk {
    /** Unpacking a block takes about as long as reading twice so many numbers. */
    private static final int MANY = 64;

    private @Nullable Scan scan;
    private long[] unpacked = {};
    private long block = -1;
    private long near = -1;
    private int asked;

    /** The number at a place. */
    public long get(long place) {
      long wanted = place >>> 10;
      if (wanted == block) {
        return unpacked[(int) (place & (BLOCK - 1))];
      }
      if (wanted != near) {
        near = wanted;
        asked = 0;
      }
      return ++asked > MANY ? unpack(place) : PackedNumbers.this.get(place);
    }

    private long unpack(long place) {
      Scan known = scan == null ? scan() : scan;
      scan = known;
      block = place >>> 10;
      unpacked = known.block((int) block);
      return unpacked[(int) (place & (BLOCK - 1))];
    }
  }

  /** A reader of numbers one after another. */
  public Walk walk() {
    return new Walk();
  }

  /** A reader of whole blocks. */
  public Scan scan() {
    return new Scan();
  }
}
