package org.mnemex.engine.read;

import com.github.luben.zstd.Zstd;
import com.github.luben.zstd.ZstdException;
import java.lang.foreign.MemorySegment;
import java.util.Arrays;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.SegmentFile;

/**
 * Blocks of stored documents. STORED holds the blocks one after another, each {@code raw length
 * u32} and a Zstandard frame (RFC 8878) with content checksum, of documents, each {@code length
 * varint, bytes}. STORED_BLOCKS holds {@code blocks u32, four zero bytes}, then per block and once
 * more at the end {@code first document u32, length of the block u32 (0 at the end), offset u64}.
 */
public final class StoredBlocks {
  private static final int ENTRY_BYTES = 16;
  private static final int MAX_BYTES = 1 << 30;

  private final SegmentFile file;
  private final Bytes table;
  private final Bytes blocks;
  private final int count;

  StoredBlocks(SegmentFile file, Bytes table, Bytes blocks) {
    this.file = file;
    this.table = table;
    this.blocks = blocks;
    this.count = table.intAt(0);
  }

  /** How many blocks there are. */
  public int count() {
    return count;
  }

  /** The first document of a block; of block {@link #count()}: the number of documents. */
  public int firstDoc(int block) {
    return table.intAt(8 + (long) ENTRY_BYTES * block);
  }

  /** A block as it stands in the file. */
  public byte[] raw(int block) {
    long entry = 8 + (long) ENTRY_BYTES * block;
    return blocks.at(table.longAt(entry + 8)).readBytes(table.intAt(entry + 4));
  }

  /** The stored part of a document. */
  public byte[] read(int doc) {
    return new Reader().read(doc);
  }

  /** A reader of many documents; not to be shared by threads. */
  Reader reader() {
    return new Reader();
  }

  /** Caches the last block, which often contains the next document. */
  final class Reader {
    private @Nullable Bytes documents;
    private int first;
    private int end;

    /** The stored part of a document. */
    byte[] read(int doc) {
      Bytes in = documents;
      if (in == null || doc < first || doc >= end) {
        int block = blockOf(doc);
        in = documents(block);
        documents = in;
        first = firstDoc(block);
        end = firstDoc(block + 1);
      }
      in.seek(0);
      for (int skip = doc - first; skip > 0; skip--) {
        int length = in.readVarInt();
        in.seek(in.position() + length);
      }
      return in.readBytes(in.readVarInt());
    }
  }

  private int blockOf(int doc) {
    int low = 0;
    int high = count - 1;
    while (low < high) {
      int middle = (low + high + 1) >>> 1;
      if (firstDoc(middle) <= doc) {
        low = middle;
      } else {
        high = middle - 1;
      }
    }
    return low;
  }

  /**
   * The documents of a block, each a length and its bytes.
   *
   * @throws org.mnemex.engine.error.DamagedFileException if the block's bytes have changed
   */
  public Bytes documents(int block) {
    byte[] raw = raw(block);
    int length = new Bytes(MemorySegment.ofArray(raw)).intAt(0);
    try {
      if (length < 0 || length > MAX_BYTES) {
        throw file.damaged("a block of stored documents claims " + length + " bytes", null);
      }
      byte[] frame = Arrays.copyOfRange(raw, 4, raw.length);
      byte[] content = Zstd.decompress(frame, length);
      if (content.length != length) {
        throw file.damaged(
            "stored block of %d bytes, %d expected".formatted(content.length, length), null);
      }
      return new Bytes(MemorySegment.ofArray(content));
    } catch (ZstdException e) {
      throw file.damaged("the bytes of stored block " + block + " have changed", e);
    }
  }
}
