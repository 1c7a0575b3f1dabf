package org.mnemex.engine.store;

import java.lang.foreign.MemorySegment;
import java.lang.foreign.ValueLayout;
import java.nio.ByteOrder;

/**
 * A reading cursor over a part of a mapped file. Every access is checked against the part's bounds,
 * so that a damaged offset ends in an exception and never outside.
 */
public final class Bytes {
  private static final ValueLayout.OfShort SHORT =
      ValueLayout.JAVA_SHORT_UNALIGNED.withOrder(ByteOrder.LITTLE_ENDIAN);
  private static final ValueLayout.OfLong LONG =
      ValueLayout.JAVA_LONG_UNALIGNED.withOrder(ByteOrder.LITTLE_ENDIAN);

  private final MemorySegment memory;
  private long at;

  public Bytes(MemorySegment memory) {
    this.memory = memory;
  }

  /** Another cursor over the same bytes, at {@code offset}. */
  public Bytes at(long offset) {
    Bytes other = new Bytes(memory);
    other.at = offset;
    return other;
  }

  public long position() {
    return at;
  }

  public void seek(long offset) {
    at = offset;
  }

  public long length() {
    return memory.byteSize();
  }

  public int readByte() {
    return memory.get(ValueLayout.JAVA_BYTE, at++) & 0xFF;
  }

  public int readVarInt() {
    return (int) readVarLong();
  }

  public long readVarLong() {
    long value = 0;
    for (int shift = 0; shift < 64; shift += 7) {
      int b = readByte();
      value |= (long) (b & 0x7F) << shift;
      if (b < 0x80) {
        return value;
      }
    }
    throw new IndexOutOfBoundsException("number without end at byte " + at);
  }

  public byte[] readBytes(int length) {
    byte[] out = new byte[length];
    MemorySegment.copy(memory, ValueLayout.JAVA_BYTE, at, out, 0, length);
    at += length;
    return out;
  }

  public int byteAt(long offset) {
    return memory.get(ValueLayout.JAVA_BYTE, offset) & 0xFF;
  }

  /** Copies {@code length} bytes at {@code offset} to the front of {@code to}. */
  public void copy(long offset, byte[] to, int length) {
    MemorySegment.copy(memory, ValueLayout.JAVA_BYTE, offset, to, 0, length);
  }

  /** Reads {@code length} bytes to {@code from} of {@code to}. */
  public void readInto(byte[] to, int from, int length) {
    MemorySegment.copy(memory, ValueLayout.JAVA_BYTE, at, to, from, length);
    at += length;
  }

  /**
   * Reads four bytes, in two halves. Read at once and made a long, they become an instruction that
   * HotSpot does not know as one that may fault: if the file was cut, the whole process would die
   * instead of this reading.
   */
  public int intAt(long offset) {
    return memory.get(SHORT, offset) & 0xFFFF | memory.get(SHORT, offset + Short.BYTES) << 16;
  }

  public long longAt(long offset) {
    return memory.get(LONG, offset);
  }

  /** How many of the next {@code length} bytes are those of {@code other} from a place on. */
  public int common(int length, byte[] other, int from) {
    int most = Math.min(length, other.length - from);
    int same = 0;
    while (same < most && memory.get(ValueLayout.JAVA_BYTE, at + same) == other[from + same]) {
      same++;
    }
    return same;
  }

  /** Compares {@code length} bytes at {@code offset} with {@code other}, as unsigned bytes. */
  public int compare(long offset, int length, byte[] other) {
    int common = Math.min(length, other.length);
    for (int i = 0; i < common; i++) {
      int difference = (memory.get(ValueLayout.JAVA_BYTE, offset + i) & 0xFF) - (other[i] & 0xFF);
      if (difference != 0) {
        return difference;
      }
    }
    return length - other.length;
  }
}
