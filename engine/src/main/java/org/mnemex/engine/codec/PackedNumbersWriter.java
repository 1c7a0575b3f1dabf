package org.mnemex.engine.codec;

import java.io.IOException;
import org.mnemex.engine.store.FileOut;

/** Writes what {@link PackedNumbers} reads, block by block as the numbers come. */
public final class PackedNumbersWriter {
  private static final int WIDEST_UNALIGNED = 56;

  private final FileOut out;
  private final long start;
  private final GrowingBytes table = new GrowingBytes();
  private final GrowingBytes packed = new GrowingBytes();
  private final long[] block = new long[PackedNumbers.BLOCK];
  private int used;
  private long count;

  /** A writer whose first byte is the next one of {@code out}. */
  public PackedNumbersWriter(FileOut out) {
    this.out = out;
    this.start = out.position();
  }

  public void add(long value) throws IOException {
    block[used++] = value;
    count++;
    if (used == block.length) {
      flush();
    }
  }

  /** Writes the rest, the table and the count. */
  public void finish() throws IOException {
    if (used > 0) {
      flush();
    }
    table.writeTo(out);
    out.writeLong(count);
  }

  private void flush() throws IOException {
    long least = Long.MAX_VALUE;
    long greatest = Long.MIN_VALUE;
    for (int i = 0; i < used; i++) {
      least = Math.min(least, block[i]);
      greatest = Math.max(greatest, block[i]);
    }
    long step = 0;
    long base = least;
    int width = bits(greatest - least);
    long slope = used < 2 ? 0 : (block[used - 1] - block[0]) / (used - 1);
    boolean small = least > -(1L << 61) && greatest < 1L << 61;
    if (small && slope != 0 && slope == (int) slope) {
      long low = Long.MAX_VALUE;
      long high = Long.MIN_VALUE;
      for (int i = 0; i < used; i++) {
        low = Math.min(low, block[i] - slope * i);
        high = Math.max(high, block[i] - slope * i);
      }
      if (bits(high - low) < width) {
        step = slope;
        base = low;
        width = bits(high - low);
      }
    }
    table.putLow(base, 8);
    table.putLow(least, 8);
    table.putLow(greatest, 8);
    table.putLow(out.position() - start, 8);
    table.putLow(step, 4);
    table.putByte(width);
    table.putLow(0, 3);
    pack(base, step, width);
    used = 0;
  }

  private void pack(long base, long step, int width) throws IOException {
    packed.clear();
    if (width == 64) {
      for (int i = 0; i < used; i++) {
        packed.putLow(block[i] - base - step * i, 8);
      }
    } else if (width > 0) {
      long waiting = 0;
      int have = 0;
      for (int i = 0; i < used; i++) {
        // At most 7 bits wait, so 56 more always fit.
        waiting |= (block[i] - base - step * i) << have;
        have += width;
        while (have >= 8) {
          packed.putByte((int) waiting);
          waiting >>>= 8;
          have -= 8;
        }
      }
      if (have > 0) {
        packed.putByte((int) waiting);
      }
      packed.putLow(0, (8 - packed.length() % 8) % 8);
    }
    packed.writeTo(out);
  }

  /** Bits for a difference, taken as unsigned; what does not fit an unaligned read takes all 64. */
  private static int bits(long range) {
    int bits = 64 - Long.numberOfLeadingZeros(range);
    return bits > WIDEST_UNALIGNED ? 64 : bits;
  }
}
