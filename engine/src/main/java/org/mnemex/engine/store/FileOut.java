package org.mnemex.engine.store;

import java.io.Closeable;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.channels.FileChannel;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.zip.CRC32C;

/** Buffered little-endian output to a new file, with its position and running checksums. */
public final class FileOut implements Closeable {
  private static final int BUFFER_BYTES = 1 << 16;

  private final FileChannel channel;
  private final ByteBuffer buffer =
      ByteBuffer.allocate(BUFFER_BYTES).order(ByteOrder.LITTLE_ENDIAN);
  private final CRC32C whole = new CRC32C();
  private final CRC32C section = new CRC32C();
  private final long portion;
  private long flushed;
  private long forced;

  /** Creates or empties {@code file}. */
  public FileOut(Path file) throws IOException {
    this(file, Long.MAX_VALUE);
  }

  /**
   * Creates or empties {@code file}.
   *
   * @param portion how many bytes are forced to the disk together, as soon as they are written
   */
  FileOut(Path file, long portion) throws IOException {
    this.portion = portion;
    channel =
        FileChannel.open(
            file,
            StandardOpenOption.CREATE,
            StandardOpenOption.WRITE,
            StandardOpenOption.TRUNCATE_EXISTING);
  }

  /** Bytes written so far. */
  public long position() {
    return flushed + buffer.position();
  }

  public void writeByte(int value) throws IOException {
    room(1);
    buffer.put((byte) value);
  }

  public void writeInt(int value) throws IOException {
    room(4);
    buffer.putInt(value);
  }

  public void writeLong(long value) throws IOException {
    room(8);
    buffer.putLong(value);
  }

  /** Seven bits a byte, low ones first, the eighth bit says that more follow. */
  public void writeVarInt(int value) throws IOException {
    writeVarLong(Integer.toUnsignedLong(value));
  }

  /** As {@link #writeVarInt}, up to ten bytes. */
  public void writeVarLong(long value) throws IOException {
    room(10);
    while ((value & ~0x7FL) != 0) {
      buffer.put((byte) ((value & 0x7F) | 0x80));
      value >>>= 7;
    }
    buffer.put((byte) value);
  }

  public void writeBytes(byte[] bytes, int from, int length) throws IOException {
    while (length > 0) {
      room(1);
      int part = Math.min(length, buffer.remaining());
      buffer.put(bytes, from, part);
      from += part;
      length -= part;
    }
  }

  public void writeBytes(byte[] bytes) throws IOException {
    writeBytes(bytes, 0, bytes.length);
  }

  /** Starts the checksum of a section anew. */
  void startSection() throws IOException {
    flush();
    section.reset();
  }

  /** Counts bytes that stand elsewhere as part of the section's checksum. */
  void addToSectionChecksum(byte[] bytes) {
    section.update(bytes);
  }

  /** CRC-32C of everything since {@link #startSection()}. */
  int sectionChecksum() throws IOException {
    flush();
    return (int) section.getValue();
  }

  /** CRC-32C of the file so far. */
  public int checksum() throws IOException {
    flush();
    return (int) whole.getValue();
  }

  /** Forces everything to the disk. */
  public void force() throws IOException {
    flush();
    channel.force(true);
  }

  private void room(int bytes) throws IOException {
    if (buffer.remaining() < bytes) {
      flush();
    }
  }

  private void flush() throws IOException {
    buffer.flip();
    whole.update(buffer.duplicate());
    section.update(buffer.duplicate());
    flushed += buffer.remaining();
    while (buffer.hasRemaining()) {
      channel.write(buffer);
    }
    buffer.clear();
    if (flushed - forced >= portion) {
      channel.force(false);
      forced = flushed;
    }
  }

  @Override
  public void close() throws IOException {
    flush();
    channel.close();
  }
}
