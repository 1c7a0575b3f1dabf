package org.mnemex.engine.write;

import java.io.Closeable;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.store.FileOut;

/**
 * Bytes that are to be written after something that is being written now: in memory as long as they
 * are few, then in a temporary file.
 */
public final class Spill implements Closeable {
  private static final int MEMORY_BYTES = 4 << 20;
  private static final int COPY_BYTES = 1 << 16;

  private final Path file;
  private final GrowingBytes memory = new GrowingBytes();
  private @Nullable FileChannel channel;
  private long inFile;

  /** A spill that uses {@code file} if it must; removed when closed. */
  public Spill(Path file) {
    this.file = file;
  }

  /** How many bytes it holds. */
  public long length() {
    return inFile + memory.length();
  }

  /** Where to append; to be followed by {@link #check}. */
  public GrowingBytes memory() {
    return memory;
  }

  /** Moves what was appended to the file if it has become much. */
  public void check() throws IOException {
    if (memory.length() < MEMORY_BYTES) {
      return;
    }
    FileChannel to = channel;
    if (to == null) {
      to =
          FileChannel.open(
              file,
              StandardOpenOption.CREATE,
              StandardOpenOption.TRUNCATE_EXISTING,
              StandardOpenOption.READ,
              StandardOpenOption.WRITE);
      channel = to;
    }
    ByteBuffer bytes = ByteBuffer.wrap(memory.array(), 0, memory.length());
    inFile += bytes.remaining();
    while (bytes.hasRemaining()) {
      to.write(bytes);
    }
    memory.clear();
  }

  /** Appends everything to {@code out}. */
  public void writeTo(FileOut out) throws IOException {
    FileChannel from = channel;
    if (from != null) {
      from.position(0);
      ByteBuffer part = ByteBuffer.allocate(COPY_BYTES);
      while (from.read(part) >= 0) {
        out.writeBytes(part.array(), 0, part.position());
        part.clear();
      }
    }
    memory.writeTo(out);
  }

  @Override
  public void close() throws IOException {
    FileChannel open = channel;
    if (open != null) {
      open.close();
      Files.deleteIfExists(file);
    }
  }
}
