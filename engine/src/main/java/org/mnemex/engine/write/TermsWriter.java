package org.mnemex.engine.write;

import java.io.Closeable;
import java.io.IOException;
import java.nio.file.Path;
import java.util.function.IntUnaryOperator;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.codec.PackedBlock;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.store.FileOut;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/**
 * Writes the terms of one field with their postings and positions; {@link Postings} says how they
 * stand. One term is held in memory at a time.
 */
final class TermsWriter implements SegmentContent.PostingSink, Closeable {
  private static final int SIZE = PackedBlock.SIZE;
  private static final int BLOCK_PAIRS = 4;
  private static final int TERM_PAIRS = 12;

  /** Postings offset and positions offset never fall. */
  private static final int GROWING = 0b0110;

  private static final int NUMBERS = 4;

  private final boolean text;
  private final IntUnaryOperator lengthCodes;
  private final DictionaryWriter dictionary;
  private final Spill places;

  private final int[] gaps = new int[SIZE];
  private final int[] freqs = new int[SIZE];
  private final int[] deltas = new int[SIZE];
  private final GrowingBytes blocks = new GrowingBytes();
  private final GrowingBytes table = new GrowingBytes();
  private final GrowingBytes packed = new GrowingBytes();
  private final Impacts blockImpacts = new Impacts(BLOCK_PAIRS);
  private final Impacts termImpacts = new Impacts(TERM_PAIRS);
  private int count;
  private int inBlock;
  private int inDeltas;
  private int lastDoc;
  private int lastOfBlock;
  private long placesStart;
  private long blockPlaces;

  TermsWriter(Field field, IntUnaryOperator lengthCodes, Path temporary) {
    this.text = field.type() == FieldType.TEXT;
    this.lengthCodes = lengthCodes;
    this.dictionary = new DictionaryWriter(temporary, NUMBERS, GROWING);
    this.places = new Spill(temporary.resolveSibling(temporary.getFileName() + ".1.tmp"));
  }

  /** Writes the sections of the field. */
  void write(SegmentContent.TermWalk terms, SegmentFile.Writer file, int number)
      throws IOException {
    FileOut out = file.begin(SegmentLayout.POSTINGS, number);
    long start = out.position();
    while (terms.next()) {
      startTerm();
      terms.postings(this);
      if (count > 0) {
        long at = out.position() - start;
        boolean single = count == 1 && freqs[0] == 1;
        int only = lastDoc;
        endTerm(out, single);
        dictionary.add(terms.term(), count, at, placesStart, single ? only + 1L : 0);
      }
    }
    file.end();
    dictionary.writeTo(file.begin(SegmentLayout.TERMS, number));
    file.end();
    if (text) {
      FileOut to = file.begin(SegmentLayout.POSITIONS, number);
      places.writeTo(to);
      file.end();
    }
  }

  private void startTerm() throws IOException {
    places.check();
    blocks.clear();
    table.clear();
    blockImpacts.clear();
    termImpacts.clear();
    count = 0;
    inBlock = 0;
    inDeltas = 0;
    lastDoc = -1;
    lastOfBlock = -1;
    placesStart = places.length();
    blockPlaces = placesStart;
  }

  @Override
  public void accept(int doc, int freq, int @Nullable [] positions) throws IOException {
    if (inBlock == SIZE) {
      endBlock(false);
    }
    gaps[inBlock] = doc - lastDoc - 1;
    freqs[inBlock] = freq;
    inBlock++;
    count++;
    lastDoc = doc;
    if (text) {
      int code = lengthCodes.applyAsInt(doc);
      blockImpacts.add(freq, code);
      termImpacts.add(freq, code);
      int previous = 0;
      for (int i = 0; positions != null && i < freq; i++) {
        if (inDeltas == SIZE) {
          flushDeltas();
        }
        deltas[inDeltas++] = positions[i] - previous;
        previous = positions[i];
      }
    }
  }

  private void flushDeltas() throws IOException {
    places.check();
    PackedBlock.encode(deltas, inDeltas, places.memory());
    inDeltas = 0;
  }

  /** Appends the block; the only one of a term has no table and no place of its positions. */
  private void endBlock(boolean only) throws IOException {
    if (inDeltas > 0) {
      flushDeltas();
    }
    table.putInt(lastDoc);
    table.putInt(Math.toIntExact(blocks.length()));
    boolean once = true;
    if (text) {
      if (!only) {
        blocks.varLong(blockPlaces - placesStart);
      }
      if (!only || count >= Postings.IMPACTS_FROM) {
        blockImpacts.writeTo(blocks);
      }
      blockImpacts.clear();
      for (int i = 0; i < inBlock; i++) {
        once &= freqs[i] == 1;
        freqs[i]--;
      }
    }
    writeDocs(text && once);
    if (text && !once) {
      PackedBlock.encode(freqs, inBlock, blocks);
    }
    blockPlaces = places.length();
    lastOfBlock = lastDoc;
    inBlock = 0;
  }

  private void writeDocs(boolean once) {
    int header = blocks.length();
    packed.clear();
    PackedBlock.encode(gaps, inBlock, packed);
    int bits = (lastDoc - lastOfBlock + 7) / 8;
    if (bits + 2 >= packed.length()) {
      blocks.put(packed);
    } else {
      byte[] set = new byte[bits];
      int doc = -1;
      for (int i = 0; i < inBlock; i++) {
        doc += gaps[i] + 1;
        set[doc >>> 3] |= (byte) (1 << (doc & 7));
      }
      blocks.putByte(PackedBlock.NO_WIDTH);
      blocks.varInt(bits);
      blocks.put(set);
    }
    if (once) {
      blocks.setBits(header, PackedBlock.FREE_BIT);
    }
  }

  private void endTerm(FileOut out, boolean single) throws IOException {
    if (single) {
      if (inDeltas > 0) {
        flushDeltas();
      }
      return;
    }
    boolean only = count <= SIZE;
    endBlock(only);
    if (!only) {
      if (text) {
        packed.clear();
        termImpacts.writeTo(packed);
        packed.writeTo(out);
      }
      table.writeTo(out);
    }
    blocks.writeTo(out);
  }

  @Override
  public void close() throws IOException {
    dictionary.close();
    places.close();
  }
}
