package org.mnemex.engine.write;

import java.io.Closeable;
import java.io.IOException;
import java.nio.file.Path;
import java.util.Arrays;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.store.FileOut;

/** Writes what {@link Dictionary} reads. */
final class DictionaryWriter implements Closeable {
  private final Spill entries;
  private final Spill offsets;
  private final int numbers;
  private final int growing;
  private final long[] previous;
  private byte[] last = new byte[0];
  private int count;

  /**
   * @param temporary a file name to use if there is much
   * @param numbers numbers an entry
   * @param growing mask of the numbers that never fall
   */
  DictionaryWriter(Path temporary, int numbers, int growing) {
    this.entries = new Spill(temporary);
    this.offsets = new Spill(temporary.resolveSibling(temporary.getFileName() + ".2.tmp"));
    this.numbers = numbers;
    this.growing = growing;
    this.previous = new long[numbers];
  }

  /** Adds the next string, which is after all before. */
  void add(byte[] text, long... values) throws IOException {
    entries.check();
    GrowingBytes out = entries.memory();
    if (count % Dictionary.BLOCK == 0) {
      offsets.check();
      offsets.memory().putLow(entries.length(), 8);
      out.varInt(text.length);
      out.put(text);
      Arrays.fill(previous, 0);
    } else {
      int shared = Arrays.mismatch(last, text);
      shared = shared < 0 ? text.length : shared;
      out.varInt(shared);
      out.varInt(text.length - shared);
      out.put(text, shared, text.length - shared);
    }
    for (int i = 0; i < numbers; i++) {
      out.varLong((growing & 1 << i) == 0 ? values[i] : values[i] - previous[i]);
      previous[i] = values[i];
    }
    last = text;
    count++;
  }

  void writeTo(FileOut out) throws IOException {
    entries.writeTo(out);
    offsets.writeTo(out);
    out.writeInt(count);
    out.writeByte(numbers);
    out.writeByte(growing);
    out.writeByte(0);
    out.writeByte(0);
  }

  @Override
  public void close() throws IOException {
    entries.close();
    offsets.close();
  }
}
