package org.mnemex.engine.codec;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
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

  /** A reader of whole blocks. */
  public Scan scan() {
    return new Scan();
  }
}
