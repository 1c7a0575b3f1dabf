package org.mnemex.engine.store;

import java.io.Closeable;
import java.io.IOException;
import java.lang.foreign.Arena;
import java.lang.foreign.MemorySegment;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.LongConsumer;
import java.util.zip.CRC32C;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.NewerFormatException;

/**
 * A segment file as sections. The file is mapped into memory and stays mapped as long as somebody
 * holds this object; it may be deleted meanwhile.
 */
public final class SegmentFile {
  private final Path path;
  private final long id;
  private final int documents;
  private final MemorySegment memory;
  private final Map<Long, Section> sections = new HashMap<>();

  /** A part of the file. Whether it was compared is told without a lock: searches always ask. */
  private static final class Section {
    final MemorySegment bytes;
    final int checksum;
    volatile boolean verified;

    Section(MemorySegment bytes, int checksum) {
      this.bytes = bytes;
      this.checksum = checksum;
    }
  }

  private SegmentFile(Path path) throws IOException {
    this.path = path;
    try (FileChannel channel = FileChannel.open(path, StandardOpenOption.READ)) {
      // An automatic arena: a snapshot that is still in use keeps its files mapped, without
      // counting.
      memory = channel.map(FileChannel.MapMode.READ_ONLY, 0, channel.size(), Arena.ofAuto());
    } catch (NoSuchFileException e) {
      throw new DamagedFileException(path, "the file is missing", e);
    }
    long size = memory.byteSize();
    if (size < SegmentLayout.HEADER_BYTES + SegmentLayout.FOOTER_BYTES) {
      throw damaged("cut short: " + size + " bytes are fewer than a header and a footer", null);
    }
    Bytes bytes = new Bytes(memory);
    if (bytes.longAt(0) != SegmentLayout.MAGIC) {
      throw damaged("it does not start like a segment", null);
    }
    int version = bytes.intAt(8);
    if (bytes.longAt(size - 8) != SegmentLayout.END_MAGIC || bytes.intAt(size - 12) != version) {
      throw damaged("cut short: it does not end like a segment", null);
    }
    if (version > SegmentLayout.VERSION) {
      throw new NewerFormatException(path, version, SegmentLayout.VERSION);
    }
    if (version != SegmentLayout.VERSION) {
      throw damaged("there is no format version " + version, null);
    }
    documents = bytes.intAt(12);
    id = bytes.longAt(16);
    readContents(bytes, size);
  }

  /**
   * Opens a segment.
   *
   * <p>Header, table of contents and footer are checked at once, a section when it is first used:
   * the start does not have to read an index that is larger than memory.
   *
   * @throws DamagedFileException if the file is missing, cut or changed
   * @throws NewerFormatException if a newer version of this program has written it
   */
  public static SegmentFile open(Path path) throws IOException {
    return new SegmentFile(path);
  }

  /**
   * Compares the whole file with its checksum.
   *
   * @throws DamagedFileException if it is not what was opened
   */
  public void verify() {
    long size = memory.byteSize();
    try {
      // Before its bytes are read: after the end of a file that was cut there is no memory.
      if (Files.size(path) != size) {
        throw damaged(
            "cut short or grown: %,d bytes instead of %,d".formatted(Files.size(path), size), null);
      }
    } catch (NoSuchFileException e) {
      throw damaged("the file is missing", e);
    } catch (IOException e) {
      throw damaged("it cannot be looked at: " + e.getMessage(), e);
    }
    Bytes bytes = new Bytes(memory);
    int found = checksum(memory.asSlice(0, size - 16));
    if (found != bytes.intAt(size - 16)) {
      throw changed(bytes.intAt(size - 16), found, "");
    }
  }

  private DamagedFileException changed(int expected, int found, String where) {
    return damaged(
        "its bytes have changed: checksum %08x expected%s, %08x found"
            .formatted(expected, where, found),
        null);
  }

  private void readContents(Bytes bytes, long size) {
    try {
      long contents = bytes.longAt(size - 28);
      long end = size - SegmentLayout.FOOTER_BYTES;
      if (contents < SegmentLayout.HEADER_BYTES || contents > end) {
        throw damaged("its table of contents lies outside the file", null);
      }
      CRC32C crc = new CRC32C();
      update(crc, memory.asSlice(0, SegmentLayout.HEADER_BYTES));
      update(crc, memory.asSlice(contents, end - contents));
      if ((int) crc.getValue() != bytes.intAt(size - 20)) {
        throw damaged("its header or table of contents has changed", null);
      }
      int count = bytes.intAt(contents);
      for (int i = 0; i < count; i++) {
        long entry = contents + 4 + 28L * i;
        long key = sectionKey(bytes.intAt(entry), bytes.intAt(entry + 4));
        sections.put(
            key,
            new Section(
                memory.asSlice(bytes.longAt(entry + 8), bytes.longAt(entry + 16)),
                bytes.intAt(entry + 24)));
      }
    } catch (IndexOutOfBoundsException e) {
      throw damaged("its table of contents points outside the file", e);
    }
  }

  public Path path() {
    return path;
  }

  public long id() {
    return id;
  }

  public int documents() {
    return documents;
  }

  public long size() {
    return memory.byteSize();
  }

  /**
   * The section of that kind for that field.
   *
   * @throws DamagedFileException if it is not there or its bytes have changed
   */
  public Bytes section(int kind, int field) {
    Section section = part(kind, field);
    if (!section.verified) {
      int found = checksum(section.bytes);
      if (found != section.checksum) {
        throw changed(
            section.checksum, found, " for section %d of field %d".formatted(kind, field));
      }
      section.verified = true;
    }
    return new Bytes(section.bytes);
  }

  /**
   * Takes the bytes as they are, for they were written a moment ago; the next opening compares
   * them.
   */
  public void trust() {
    sections.values().forEach(section -> section.verified = true);
  }

  /** A section whose content carries its own checksums. */
  public Bytes unverified(int kind, int field) {
    return new Bytes(part(kind, field).bytes);
  }

  private Section part(int kind, int field) {
    Section part = sections.get(sectionKey(kind, field));
    if (part == null) {
      throw damaged("section " + kind + " of field " + field + " is missing", null);
    }
    return part;
  }

  /** Bytes by kind of section. */
  public Map<Integer, Long> bytesByKind() {
    Map<Integer, Long> bytes = new TreeMap<>();
    sections.forEach(
        (key, part) -> bytes.merge((int) (key >>> 32), part.bytes.byteSize(), Long::sum));
    return bytes;
  }

  /** Bytes by kind of section, of one field; {@link SegmentLayout#NO_FIELD} for those of none. */
  public Map<Integer, Long> bytesByKind(int field) {
    Map<Integer, Long> bytes = new TreeMap<>();
    sections.forEach(
        (key, part) -> {
          if ((int) (long) key == field) {
            bytes.put((int) (key >>> 32), part.bytes.byteSize());
          }
        });
    return bytes;
  }

  /** The error to throw when a section's content contradicts itself. */
  public DamagedFileException damaged(
      String what, @org.jspecify.annotations.Nullable Throwable cause) {
    return new DamagedFileException(path, what, cause);
  }

  private static int checksum(MemorySegment part) {
    CRC32C crc = new CRC32C();
    update(crc, part);
    return (int) crc.getValue();
  }

  private static void update(CRC32C crc, MemorySegment part) {
    // A byte buffer holds at most 2 GiB.
    for (long at = 0; at < part.byteSize(); at += 1 << 30) {
      crc.update(part.asSlice(at, Math.min(1 << 30, part.byteSize() - at)).asByteBuffer());
    }
  }

  private static long sectionKey(int kind, int field) {
    return (long) kind << 32 | (field & 0xFFFFFFFFL);
  }

  /** Writes a segment file section by section. */
  public static final class Writer implements Closeable {
    private static final long FORCED_BYTES = 4 << 20;

    private final FileOut out;
    private final List<long[]> entries = new ArrayList<>();

    private final byte[] header;
    private final LongConsumer written;
    private final boolean forced;

    /**
     * Begins a file.
     *
     * @param written told after each section how many bytes are written
     * @param forced whether the file is forced to the disk; in portions, as others who force a file
     *     may have to wait until all that was asked for before is on the disk
     */
    public Writer(Path path, long id, int documents, LongConsumer written, boolean forced)
        throws IOException {
      this.written = written;
      this.forced = forced;
      out = forced ? new FileOut(path, FORCED_BYTES) : new FileOut(path);
      header =
          ByteBuffer.allocate(SegmentLayout.HEADER_BYTES)
              .order(ByteOrder.LITTLE_ENDIAN)
              .putLong(SegmentLayout.MAGIC)
              .putInt(SegmentLayout.VERSION)
              .putInt(documents)
              .putLong(id)
              .array();
      out.writeBytes(header);
    }

    /**
     * Begins a section; what is written to the returned output belongs to it until {@link #end}.
     */
    public FileOut begin(int kind, int field) throws IOException {
      out.startSection();
      entries.add(new long[] {kind, field, out.position(), 0, 0});
      return out;
    }

    /** Ends the section that was begun last. */
    public void end() throws IOException {
      long[] entry = entries.getLast();
      entry[3] = out.position() - entry[2];
      entry[4] = out.sectionChecksum();
      written.accept(out.position());
    }

    /** Writes the table of contents and the footer. */
    public void finish() throws IOException {
      long contents = out.position();
      out.startSection();
      out.addToSectionChecksum(header);
      out.writeInt(entries.size());
      for (long[] entry : entries) {
        out.writeInt((int) entry[0]);
        out.writeInt((int) entry[1]);
        out.writeLong(entry[2]);
        out.writeLong(entry[3]);
        out.writeInt((int) entry[4]);
      }
      int contentsChecksum = out.sectionChecksum();
      out.writeLong(contents);
      out.writeInt(contentsChecksum);
      out.writeInt(out.checksum());
      out.writeInt(SegmentLayout.VERSION);
      out.writeLong(SegmentLayout.END_MAGIC);
      if (forced) {
        out.force();
      }
    }

    @Override
    public void close() throws IOException {
      out.close();
    }
  }
}
