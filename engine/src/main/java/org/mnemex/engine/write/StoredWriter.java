package org.mnemex.engine.write;

import com.github.luben.zstd.ZstdCompressCtx;
import java.io.Closeable;
import java.io.IOException;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.store.FileOut;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/**
 * Writes stored documents in compressed blocks, as {@code StoredBlocks} reads them. A block of
 * another segment of which nothing is deleted is copied as it is.
 */
final class StoredWriter implements SegmentContent.StoredSink, Closeable {
  private static final int BLOCK_BYTES = 16 * 1024;
  private static final int LEVEL = 1;

  private final FileOut out;
  private final long start;
  private final ZstdCompressCtx compressor =
      new ZstdCompressCtx().setLevel(LEVEL).setChecksum(true);
  private final GrowingBytes block = new GrowingBytes();
  private final GrowingBytes table = new GrowingBytes();
  private int documents;
  private int firstOfBlock;
  private int blocks;

  StoredWriter(SegmentFile.Writer file) throws IOException {
    out = file.begin(SegmentLayout.STORED, SegmentLayout.NO_FIELD);
    start = out.position();
  }

  @Override
  public void document(byte[] bytes) throws IOException {
    if (block.length() == 0) {
      firstOfBlock = documents;
    }
    block.varInt(bytes.length);
    block.put(bytes);
    documents++;
    if (block.length() >= BLOCK_BYTES) {
      flush();
    }
  }

  @Override
  public void block(byte[] raw, int count) throws IOException {
    flush();
    entry(documents, raw.length);
    out.writeBytes(raw);
    documents += count;
  }

  private void flush() throws IOException {
    if (block.length() == 0) {
      return;
    }
    byte[] frame = compressor.compress(block.toArray());
    entry(firstOfBlock, frame.length + 4);
    out.writeInt(block.length());
    out.writeBytes(frame);
    block.clear();
  }

  private void entry(int firstDoc, int bytes) {
    table.putInt(firstDoc);
    table.putInt(bytes);
    table.putLow(out.position() - start, 8);
    blocks++;
  }

  /** Ends STORED and writes STORED_BLOCKS. */
  void finish(SegmentFile.Writer file) throws IOException {
    flush();
    int count = blocks;
    entry(documents, 0);
    file.end();
    FileOut to = file.begin(SegmentLayout.STORED_BLOCKS, SegmentLayout.NO_FIELD);
    to.writeInt(count);
    to.writeInt(0);
    table.writeTo(to);
    file.end();
  }

  @Override
  public void close() {
    compressor.close();
  }
}
