package org.mnemex.engine.codec;

import java.lang.invoke.MethodHandles;
import java.lang.invoke.VarHandle;
import java.nio.ByteOrder;
import java.util.Arrays;
import org.mnemex.engine.store.Bytes;

/**
 * Up to 128 small numbers in few bytes: all with the same number of bits, and the few that need
 * more patched in (Zukowski, Héman, Nes and Boncz, "Super-Scalar RAM-CPU Cache Compression", ICDE
 * 2006; the width is chosen by total size as in Yan, Ding and Suel, "Inverted Index Compression and
 * Query Processing with Optimized Document Ordering", WWW 2009).
 *
 * <pre>
 * header u8: bits b, 0 to 32; plus 0x40 if there are exceptions; 0x80 is left to the user
 * [exceptions u8]
 * n × b bits, low ones first, filled up to a byte
 * [index u8 × exceptions, then per exception the value's bits above b, varint]
 * </pre>
 *
 * <p>The decoder is not safe for use by several threads; a cursor has its own.
 */
public final class PackedBlock {
  /** The maximum of numbers in a block. */
  public static final int SIZE = 128;

  /** An unused header bit, free for formats that embed a block. */
  public static final int FREE_BIT = 0x80;

  /** An unused width, free for formats that embed blocks. */
  public static final int NO_WIDTH = 0x3F;

  private static final int EXCEPTIONS = 0x40;

  /** With this few numbers, an exception costs more than it saves. */
  private static final int FEW = 4;

  private static final int SHORT = 16;
  private static final int MAX_BYTES = SIZE * Integer.BYTES + Long.BYTES;

  private static final VarHandle LONGS =
      MethodHandles.byteArrayViewVarHandle(long[].class, ByteOrder.LITTLE_ENDIAN);

  /** Grows on demand: most lists are short. */
  private byte[] packed = {};

  /** Appends the first {@code count} of {@code values}, none of them negative. */
  public static void encode(int[] values, int count, GrowingBytes out) {
    int most = 0;
    for (int i = 0; i < count; i++) {
      most |= values[i];
    }
    int bits = 32 - Integer.numberOfLeadingZeros(most);
    int exceptions = 0;
    if (count > FEW) {
      int[] byBits = new int[33];
      for (int i = 0; i < count; i++) {
        byBits[32 - Integer.numberOfLeadingZeros(values[i])]++;
      }
      bits = cheapest(byBits, count);
      for (int b = bits + 1; b <= 32; b++) {
        exceptions += byBits[b];
      }
    }
    out.putByte(exceptions == 0 ? bits : bits | EXCEPTIONS);
    if (exceptions > 0) {
      out.putByte(exceptions);
    }
    pack(values, count, bits, out);
    if (exceptions > 0) {
      for (int i = 0; i < count; i++) {
        if (values[i] >>> bits != 0) {
          out.putByte(i);
        }
      }
      for (int i = 0; i < count; i++) {
        if (values[i] >>> bits != 0) {
          out.varInt(values[i] >>> bits);
        }
      }
    }
  }

  private static int cheapest(int[] byBits, int count) {
    int most = 32;
    while (most > 0 && byBits[most] == 0) {
      most--;
    }
    int best = most;
    int bestBytes = (count * most + 7) / 8;
    // A shift by 32 would do nothing, so numbers of 32 bits are never exceptions of width 0.
    for (int bits = most - 1; bits >= Math.max(0, most - 16); bits--) {
      int bytes = (count * bits + 7) / 8 + 1;
      for (int b = bits + 1; b <= most; b++) {
        bytes += byBits[b] * (1 + (b - bits + 6) / 7);
      }
      if (bytes < bestBytes) {
        bestBytes = bytes;
        best = bits;
      }
    }
    return best;
  }

  private static void pack(int[] values, int count, int bits, GrowingBytes out) {
    long waiting = 0;
    int have = 0;
    long mask = (1L << bits) - 1;
    for (int i = 0; i < count; i++) {
      waiting |= (values[i] & mask) << have;
      have += bits;
      while (have >= 8) {
        out.putByte((int) waiting);
        waiting >>>= 8;
        have -= 8;
      }
    }
    if (have > 0) {
      out.putByte((int) waiting);
    }
  }

  /**
   * Reads {@code count} numbers that {@link #encode} wrote at {@code offset}.
   *
   * @return the offset after them
   */
  public long decode(Bytes in, long offset, int count, int[] out) {
    int header = in.byteAt(offset++);
    int bits = header & 0x3F;
    int exceptions = (header & EXCEPTIONS) == 0 ? 0 : in.byteAt(offset++);
    int length = (count * bits + 7) >>> 3;
    if (bits == 0) {
      Arrays.fill(out, 0, count, 0);
    } else {
      if (packed.length < length + Long.BYTES) {
        packed = new byte[count <= SHORT ? SHORT * Integer.BYTES + Long.BYTES : MAX_BYTES];
      }
      in.copy(offset, packed, length);
      unpack(bits, count, out);
    }
    offset += length;
    if (exceptions > 0) {
      in.seek(offset + exceptions);
      for (int i = 0; i < exceptions; i++) {
        out[in.byteAt(offset + i)] |= in.readVarInt() << bits;
      }
      offset = in.position();
    }
    return offset;
  }

  private void unpack(int bits, int count, int[] out) {
    byte[] from = packed;
    int mask = (int) ((1L << bits) - 1);
    for (int i = 0, bit = 0; i < count; i++, bit += bits) {
      out[i] = (int) ((long) LONGS.get(from, bit >>> 3) >>> (bit & 7)) & mask;
    }
  }

  /** The offset after {@code count} numbers at {@code offset}, without reading them. */
  public static long skip(Bytes in, long offset, int count) {
    int header = in.byteAt(offset++);
    int exceptions = (header & EXCEPTIONS) == 0 ? 0 : in.byteAt(offset++);
    offset += (count * (header & 0x3F) + 7) >>> 3;
    if (exceptions > 0) {
      in.seek(offset + exceptions);
      for (int i = 0; i < exceptions; i++) {
        in.readVarInt();
      }
      offset = in.position();
    }
    return offset;
  }
}
