package org.mnemex.engine.store;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.zip.CRC32C;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.NewerFormatException;

/**
 * The one file that says what the edition is: which segments, which deletions, and for which source
 * position. Written to {@code manifest-<generation>}; the highest valid one counts.
 *
 * <pre>
 * "MNEMEXMF", version u16, schema fingerprint, generation u64, next segment id u64,
 * segments: count u32, each id u64, deletions generation u64 (0: none), documents u32, bytes u64
 * checkpoint: count u32, each name and value
 * CRC-32C of everything before, u32
 * </pre>
 *
 * <p>Texts are a u32 length and UTF-8; unlike segments this small file is big-endian throughout
 * (the order of {@link DataOutputStream}).
 *
 * @param generation counts commits, from 1
 * @param nextSegment the next unused segment id
 */
public record Manifest(
    long generation,
    long nextSegment,
    String schemaFingerprint,
    List<SegmentEntry> segments,
    Checkpoint checkpoint) {

  private static final byte[] MAGIC = "MNEMEXMF".getBytes(StandardCharsets.US_ASCII);
  private static final int VERSION = 1;
  private static final int MAX_ENTRIES = 1_000_000;

  /** The prefix of manifests' file names. */
  public static final String PREFIX = "manifest-";

  /**
   * One segment of a commit.
   *
   * @param deletions generation of its deletions file, 0 if nothing is deleted
   * @param bytes length of the segment file
   */
  public record SegmentEntry(long id, long deletions, int documents, long bytes) {}

  /** The file name of a generation. */
  public static String fileName(long generation) {
    return PREFIX + generation;
  }

  /** The manifest as bytes. */
  public byte[] encode() {
    try {
      ByteArrayOutputStream bytes = new ByteArrayOutputStream();
      DataOutputStream out = new DataOutputStream(bytes);
      out.write(MAGIC);
      out.writeShort(VERSION);
      writeText(out, schemaFingerprint);
      out.writeLong(generation);
      out.writeLong(nextSegment);
      out.writeInt(segments.size());
      for (SegmentEntry segment : segments) {
        out.writeLong(segment.id);
        out.writeLong(segment.deletions);
        out.writeInt(segment.documents);
        out.writeLong(segment.bytes);
      }
      out.writeInt(checkpoint.values().size());
      for (Map.Entry<String, String> entry : checkpoint.values().entrySet()) {
        writeText(out, entry.getKey());
        writeText(out, entry.getValue());
      }
      out.writeInt(checksum(bytes.toByteArray(), bytes.size()));
      return bytes.toByteArray();
    } catch (IOException e) {
      throw new IllegalStateException("writing to memory cannot fail", e);
    }
  }

  /**
   * Reads a manifest.
   *
   * @throws DamagedFileException if the file is cut or changed
   * @throws NewerFormatException if a newer version of this program has written it
   */
  public static Manifest read(Path file) throws IOException {
    byte[] bytes = Files.readAllBytes(file);
    if (bytes.length < MAGIC.length + 6
        || !Arrays.equals(bytes, 0, MAGIC.length, MAGIC, 0, MAGIC.length)) {
      throw new DamagedFileException(file, "it does not start like a manifest", null);
    }
    DataInputStream in =
        new DataInputStream(
            new ByteArrayInputStream(bytes, MAGIC.length, bytes.length - MAGIC.length));
    int version = in.readUnsignedShort();
    int expected =
        new DataInputStream(new ByteArrayInputStream(bytes, bytes.length - 4, 4)).readInt();
    int found = checksum(bytes, bytes.length - 4);
    if (version > VERSION && !isKnownBut(bytes, expected)) {
      throw new NewerFormatException(file, version, VERSION);
    }
    if (found != expected) {
      throw new DamagedFileException(
          file,
          "its bytes have changed: checksum %08x expected, %08x found".formatted(expected, found),
          null);
    }
    if (version != VERSION) {
      throw new DamagedFileException(file, "there is no manifest version " + version, null);
    }
    String fingerprint = readText(in);
    long generation = in.readLong();
    long nextSegment = in.readLong();
    List<SegmentEntry> segments = new ArrayList<>();
    for (int n = count(in, file); n > 0; n--) {
      segments.add(new SegmentEntry(in.readLong(), in.readLong(), in.readInt(), in.readLong()));
    }
    Map<String, String> checkpoint = new TreeMap<>();
    for (int n = count(in, file); n > 0; n--) {
      checkpoint.put(readText(in), readText(in));
    }
    return new Manifest(
        generation, nextSegment, fingerprint, List.copyOf(segments), new Checkpoint(checkpoint));
  }

  /** Whether nothing but the version has changed, so that it was one that we know. */
  private static boolean isKnownBut(byte[] bytes, int expected) {
    byte[] known = bytes.clone();
    known[MAGIC.length] = 0;
    known[MAGIC.length + 1] = VERSION;
    return checksum(known, known.length - 4) == expected;
  }

  private static int count(DataInputStream in, Path file) throws IOException {
    int count = in.readInt();
    if (count < 0 || count > MAX_ENTRIES) {
      throw new DamagedFileException(file, "it claims to list " + count + " entries", null);
    }
    return count;
  }

  private static void writeText(DataOutputStream out, String text) throws IOException {
    byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
    out.writeInt(utf8.length);
    out.write(utf8);
  }

  private static String readText(DataInputStream in) throws IOException {
    byte[] utf8 = in.readNBytes(in.readInt());
    return new String(utf8, StandardCharsets.UTF_8);
  }

  private static int checksum(byte[] bytes, int length) {
    CRC32C crc = new CRC32C();
    crc.update(bytes, 0, length);
    return (int) crc.getValue();
  }
}
