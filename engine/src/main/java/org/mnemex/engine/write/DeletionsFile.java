package org.mnemex.engine.write;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.zip.CRC32C;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.store.Folder;
import org.mnemex.engine.store.Manifest;

/**
 * The file that says which documents of a segment are deleted: {@code magic u64, segment id u64,
 * documents u32, bits u64[], CRC-32C u32}, little-endian.
 */
public final class DeletionsFile {
  private static final long MAGIC = 0x4C44_584D_454E_4D00L;

  /** Everything but the bits, in bytes. */
  private static final int FRAME = 24;

  private DeletionsFile() {}

  /**
   * Writes the deletions of a segment.
   *
   * @param commit whose file it is
   */
  static void write(Folder folder, long segment, long commit, DocBits bits) throws IOException {
    ByteBuffer out =
        ByteBuffer.allocate(FRAME + Long.BYTES * bits.words().length)
            .order(ByteOrder.LITTLE_ENDIAN);
    out.putLong(MAGIC).putLong(segment).putInt(bits.size());
    for (long word : bits.words()) {
      out.putLong(word);
    }
    out.putInt(checksum(out.array(), out.position()));
    Path file = folder.deletions(segment, commit);
    folder.writeAtomically(String.valueOf(file.getFileName()), out.array());
  }

  /**
   * Reads the deletions of a segment.
   *
   * @param file where they are
   * @param entry the segment
   * @throws DamagedFileException if the file is missing or not as it was written
   */
  public static DocBits read(Path file, Manifest.SegmentEntry entry) throws IOException {
    byte[] bytes;
    try {
      bytes = Files.readAllBytes(file);
    } catch (NoSuchFileException e) {
      throw new DamagedFileException(file, "the file is missing", e);
    }
    ByteBuffer in = ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN);
    int words = (entry.documents() + 63) >>> 6;
    if (bytes.length != FRAME + Long.BYTES * words) {
      throw new DamagedFileException(file, "cut short or grown: " + bytes.length + " bytes", null);
    }
    if (in.getLong() != MAGIC
        || in.getLong() != entry.id()
        || in.getInt() != entry.documents()
        || in.getInt(bytes.length - Integer.BYTES)
            != checksum(bytes, bytes.length - Integer.BYTES)) {
      throw new DamagedFileException(file, "its bytes have changed", null);
    }
    long[] bits = new long[words];
    for (int i = 0; i < words; i++) {
      bits[i] = in.getLong();
    }
    return DocBits.of(bits, entry.documents());
  }

  private static int checksum(byte[] bytes, int length) {
    CRC32C crc = new CRC32C();
    crc.update(bytes, 0, length);
    return (int) crc.getValue();
  }
}
