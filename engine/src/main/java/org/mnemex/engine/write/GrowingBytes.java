package org.mnemex.engine.write;

import java.io.IOException;
import java.util.Arrays;
import org.mnemex.engine.store.FileOut;

/** Bytes in memory that are to be written behind something whose size depends on them. */
final class GrowingBytes {
  private byte[] bytes = new byte[1024];
  private int length;

  int length() {
    return length;
  }

  void clear() {
    length = 0;
  }

  void varInt(int value) {
    varLong(Integer.toUnsignedLong(value));
  }

  void varLong(long value) {
    room(10);
    while ((value & ~0x7FL) != 0) {
      bytes[length++] = (byte) ((value & 0x7F) | 0x80);
      value >>>= 7;
    }
    bytes[length++] = (byte) value;
  }

  void put(byte[] more) {
    room(more.length);
    System.arraycopy(more, 0, bytes, length, more.length);
    length += more.length;
  }

  byte[] toArray() {
    return Arrays.copyOf(bytes, length);
  }

  void writeTo(FileOut out) throws IOException {
    out.writeBytes(bytes, 0, length);
  }

  private void room(int more) {
    if (bytes.length - length < more) {
      bytes = Arrays.copyOf(bytes, Math.max(length + more, Math.multiplyExact(2, bytes.length)));
    }
  }
}
