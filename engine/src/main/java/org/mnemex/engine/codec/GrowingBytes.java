package org.mnemex.engine.codec;

import java.io.IOException;
import java.util.Arrays;
import org.mnemex.engine.store.FileOut;

/** Bytes in memory that are written after something whose size depends on them. */
public final class GrowingBytes {
  private byte[] bytes = new byte[1024];
  private int length;

  public int length() {
    return length;
  }

  public void clear() {
    length = 0;
  }

  public void varInt(int value) {
    varLong(Integer.toUnsignedLong(value));
  }

  public void varLong(long value) {
    room(10);
    while ((value & ~0x7FL) != 0) {
      bytes[length++] = (byte) ((value & 0x7F) | 0x80);
      value >>>= 7;
    }
    bytes[length++] = (byte) value;
  }

  public void put(byte[] more) {
    put(more, 0, more.length);
  }

  public void put(byte[] more, int from, int count) {
    room(count);
    System.arraycopy(more, from, bytes, length, count);
    length += count;
  }

  public void putByte(int value) {
    room(1);
    bytes[length++] = (byte) value;
  }

  /** The low {@code count} bytes of {@code value}, the lowest first. */
  public void putLow(long value, int count) {
    room(count);
    for (int i = 0; i < count; i++) {
      bytes[length++] = (byte) (value >>> 8 * i);
    }
  }

  public void putInt(int value) {
    putLow(value, 4);
  }

  public void put(GrowingBytes more) {
    put(more.bytes, 0, more.length);
  }

  /** Sets bits of an earlier byte. */
  public void setBits(int at, int bits) {
    bytes[at] |= (byte) bits;
  }

  /** The bytes themselves; only the first {@link #length()} are valid, until the next change. */
  public byte[] array() {
    return bytes;
  }

  public byte[] toArray() {
    return Arrays.copyOf(bytes, length);
  }

  public void writeTo(FileOut out) throws IOException {
    out.writeBytes(bytes, 0, length);
  }

  private void room(int more) {
    if (bytes.length - length < more) {
      bytes = Arrays.copyOf(bytes, Math.max(length + more, Math.multiplyExact(2, bytes.length)));
    }
  }
}
