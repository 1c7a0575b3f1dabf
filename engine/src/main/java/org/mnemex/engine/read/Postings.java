package org.mnemex.engine.read;

import java.lang.foreign.MemorySegment;
import java.util.Arrays;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedBlock;
import org.mnemex.engine.store.Bytes;

/**
 * The documents of one term in order, with frequencies, positions and bounds of what they can
 * score. Before the first {@link #next()} the cursor is before the first document.
 *
 * <h2>Bytes</h2>
 *
 * <p>A term that occurs once, in one document, is in the dictionary alone. Any other is, at its
 * offset in POSTINGS:
 *
 * <pre>
 * more than 128 documents only:
 *   impacts of the term                              (fields with frequencies)
 *   per block: last document u32, offset u32 from the first block
 * blocks of 128 documents, the last one of the rest:
 *   offset in the term's positions varint            (text, more than 128 documents)
 *   impacts of the block             (fields with frequencies, 16 documents or more in all)
 *   documents: a packed block of the differences to the document before, less one
 *      or 0x3F, bytes varint, a bit for each document from the one after the last block's last
 *      plus 0x80 in the first byte, if all frequencies are 1 and so left out
 *   frequencies less one: packed block               (fields with frequencies)
 * impacts: count u8, then frequency varint and length code u8 each
 * </pre>
 *
 * <p>Impacts are the pairs of which no other has both a higher or equal frequency and a shorter or
 * equal length: whatever the weights of a score that grows with frequency and falls with length,
 * one of them bounds it (Ding and Suel, "Faster Top-k Document Retrieval Using Block-Max Indexes",
 * SIGIR 2011, with pairs in place of scores, because the mean length of an edition changes).
 *
 * <p>Positions of a block are the differences of all its documents' positions one after another, in
 * packed blocks of 128; a document's first one counts from 0.
 */
public final class Postings {
  /** The position of an exhausted cursor. */
  public static final int END = Integer.MAX_VALUE;

  /** Terms in fewer documents have no impacts: reading them is fast. */
  public static final int IMPACTS_FROM = 16;

  private static final int SIZE = PackedBlock.SIZE;

  private final Bytes bytes;
  private final @Nullable Bytes places;
  private final long placesStart;
  private final int count;
  private final boolean frequencies;
  private final int blocks;
  private final long impactsAt;
  private final long table;
  private final long data;

  private final PackedBlock decoder;
  private final int[] docs;
  private int[] freqs = {};
  private int block = -1;
  private int inBlock;
  private int blockLast = -1;
  private int index;
  private int doc = -1;
  private long freqsAt;
  private long placesAt;
  private boolean freqsRead;
  private boolean once;

  /** The least length code in the block; 1 where that is not known, as nothing is shorter. */
  private int shortest = 1;

  private int shallow;
  private int boundBlock = -1;
  private double bound;

  private int[] sums = {};
  private boolean summed;
  private int chunk = -1;
  private int[] chunkDeltas = {};
  private long nextChunkAt;

  /** A term that occurs once, in {@code onlyDoc}. */
  Postings(int onlyDoc, boolean frequencies, @Nullable Bytes places, long placesStart) {
    this.bytes = new Bytes(MemorySegment.ofArray(new byte[0]));
    this.places = places;
    this.placesStart = placesStart;
    this.placesAt = placesStart;
    this.count = 1;
    this.frequencies = frequencies;
    this.blocks = 0;
    this.impactsAt = 0;
    this.table = 0;
    this.data = 0;
    this.decoder = new PackedBlock();
    this.docs = new int[] {onlyDoc};
    this.freqs = new int[] {1};
    this.freqsRead = true;
  }

  Postings(
      int count,
      Bytes section,
      long start,
      boolean frequencies,
      @Nullable Bytes places,
      long placesStart) {
    this.bytes = section.at(start);
    this.places = places;
    this.placesStart = placesStart;
    this.count = count;
    this.frequencies = frequencies;
    this.blocks = (count + SIZE - 1) / SIZE;
    this.impactsAt = start;
    if (blocks > 1) {
      if (frequencies) {
        skipImpacts();
      }
      this.table = bytes.position();
      this.data = table + 8L * blocks;
    } else {
      this.table = 0;
      this.data = start;
    }
    this.decoder = new PackedBlock();
    this.docs = new int[Math.min(count, SIZE)];
  }

  private void skipImpacts() {
    for (int n = bytes.readByte(); n > 0; n--) {
      bytes.readVarInt();
      bytes.readByte();
    }
  }

  private int shortestOfImpacts() {
    int shortest = Integer.MAX_VALUE;
    for (int n = bytes.readByte(); n > 0; n--) {
      bytes.readVarInt();
      shortest = Math.min(shortest, bytes.readByte());
    }
    return shortest;
  }

  /**
   * A bound of frequency × factor by length of the current document, for which its length need not
   * be known: that would be another place in memory.
   *
   * @param factors by length code; must not grow with it
   */
  public double limit(double[] factors) {
    return freq() * factors[shortest];
  }

  /** The number of documents of the segment with the term, deleted ones included. */
  public int count() {
    return count;
  }

  public int doc() {
    return doc;
  }

  /** Goes to the next document, or to {@link #END}. */
  public int next() {
    if (++index < inBlock) {
      return doc = docs[index];
    }
    return nextBlock();
  }

  private int nextBlock() {
    if (blocks == 0) {
      if (block < 0) {
        block = 0;
        inBlock = 1;
        index = 0;
        return doc = docs[0];
      }
      return end();
    }
    if (block + 1 >= blocks) {
      return end();
    }
    load(block + 1);
    index = 0;
    return doc = docs[0];
  }

  private int end() {
    index = inBlock;
    return doc = END;
  }

  /** Goes to the first document at or after {@code target}; stays if it is there already. */
  public int advance(int target) {
    if (doc >= target) {
      return doc;
    }
    if (target > blockLast || block < 0) {
      if (blocks == 0) {
        next();
        return doc >= target ? doc : end();
      }
      int wanted = blockOf(target, Math.max(0, block));
      if (wanted >= blocks) {
        return end();
      }
      if (wanted != block) {
        load(wanted);
        index = -1;
      }
    }
    int from = Math.max(0, index);
    // Most steps are short, so look nearby first.
    int step = 1;
    int high = from;
    while (high < inBlock && docs[high] < target) {
      from = high + 1;
      high += step;
      step <<= 1;
    }
    high = Math.min(high, inBlock - 1);
    while (from < high) {
      int middle = (from + high) >>> 1;
      if (docs[middle] < target) {
        from = middle + 1;
      } else {
        high = middle;
      }
    }
    if (from >= inBlock || docs[from] < target) {
      return end();
    }
    index = from;
    return doc = docs[from];
  }

  /** Adds all documents to a set. Only before the first step; it ends with that. */
  public void addTo(DocBits bits) {
    for (int n = nextDocs(); n > 0; n = nextDocs()) {
      for (int i = 0; i < n; i++) {
        bits.set(docs[i]);
      }
    }
  }

  /** Goes to the next block, of {@link #docs} and {@link #freqs}; how many it has, 0 at the end. */
  public int nextDocs() {
    return nextBlock() == END ? 0 : inBlock;
  }

  /** The documents of the block, in order; not to be changed, and there may be more numbers. */
  public int[] docs() {
    return docs;
  }

  /** How often the term stands in each of the block's documents; not to be changed. */
  public int[] freqs() {
    if (!freqsRead) {
      readFreqs();
    }
    return freqs;
  }

  private int lastOf(int wanted) {
    return bytes.intAt(table + 8L * wanted);
  }

  /** The first block at or after {@code from} whose last document is not before {@code target}. */
  private int blockOf(int target, int from) {
    if (blocks == 1) {
      return from;
    }
    int low = from;
    int step = 1;
    int high = from;
    while (high < blocks && lastOf(high) < target) {
      low = high + 1;
      high += step;
      step <<= 1;
    }
    high = Math.min(high, blocks);
    while (low < high) {
      int middle = (low + high) >>> 1;
      if (lastOf(middle) < target) {
        low = middle + 1;
      } else {
        high = middle;
      }
    }
    return low;
  }

  private long startOf(int wanted) {
    return blocks == 1 ? data : data + Integer.toUnsignedLong(bytes.intAt(table + 8L * wanted + 4));
  }

  private void load(int wanted) {
    int before = wanted == 0 ? -1 : blocks == 1 ? -1 : lastOf(wanted - 1);
    inBlock = Math.min(SIZE, count - wanted * SIZE);
    bytes.seek(startOf(wanted));
    placesAt = placesStart;
    if (frequencies) {
      if (blocks > 1) {
        placesAt += bytes.readVarLong();
      }
      shortest = count >= IMPACTS_FROM ? shortestOfImpacts() : 1;
    }
    long at = bytes.position();
    int header = bytes.byteAt(at);
    once = (header & PackedBlock.FREE_BIT) != 0;
    if ((header & PackedBlock.NO_WIDTH) == PackedBlock.NO_WIDTH) {
      bytes.seek(at + 1);
      int length = bytes.readVarInt();
      at = bytes.position();
      readBits(at, length, before + 1);
      freqsAt = at + length;
    } else {
      freqsAt = decoder.decode(bytes, at, inBlock, docs);
      int last = before;
      for (int i = 0; i < inBlock; i++) {
        last += docs[i] + 1;
        docs[i] = last;
      }
    }
    block = wanted;
    blockLast = docs[inBlock - 1];
    freqsRead = false;
    summed = false;
    chunk = -1;
  }

  private void readBits(long at, int length, int base) {
    int n = 0;
    for (int i = 0; i < length && n < inBlock; i++) {
      int bits = bytes.byteAt(at + i);
      while (bits != 0 && n < inBlock) {
        docs[n++] = base + 8 * i + Integer.numberOfTrailingZeros(bits);
        bits &= bits - 1;
      }
    }
  }

  /** The frequency of the term in the current document. */
  public int freq() {
    if (!frequencies) {
      return 1;
    }
    if (!freqsRead) {
      readFreqs();
    }
    return freqs[index];
  }

  private void readFreqs() {
    if (freqs.length < docs.length) {
      freqs = new int[docs.length];
    }
    if (once || !frequencies) {
      Arrays.fill(freqs, 0, inBlock, 1);
    } else {
      decoder.decode(bytes, freqsAt, inBlock, freqs);
      for (int i = 0; i < inBlock; i++) {
        freqs[i]++;
      }
    }
    freqsRead = true;
  }

  /**
   * The last document of the block that {@code target} would be in, or {@link #END} if there is
   * none or no end is known. Does not move the cursor; targets must not go back.
   */
  public int blockEnd(int target) {
    if (blocks <= 1) {
      return END;
    }
    shallow = blockOf(target, Math.max(shallow, Math.max(0, block)));
    return shallow >= blocks ? END : lastOf(shallow);
  }

  /**
   * An upper bound of frequency × factor by length over the documents from {@code target} to the
   * end of its block.
   *
   * @param factors by length code; must not grow with it
   */
  public double bound(int target, double[] factors) {
    if (blocks <= 1 || !frequencies) {
      return bound(factors);
    }
    blockEnd(target);
    if (shallow >= blocks) {
      return 0;
    }
    if (shallow != boundBlock) {
      Bytes at = bytes.at(startOf(shallow));
      at.readVarLong();
      bound = bound(at, factors);
      boundBlock = shallow;
    }
    return bound;
  }

  /** An upper bound of frequency × factor by length over all documents of the term. */
  public double bound(double[] factors) {
    if (!frequencies) {
      return factors[0];
    }
    if (blocks == 0) {
      return factors[1];
    }
    return count < IMPACTS_FROM ? greatestFreq() * factors[1] : bound(bytes.at(impactsAt), factors);
  }

  /** The highest frequency of a term that has one block only. */
  private int greatestFreq() {
    if (block < 0) {
      load(0);
      index = -1;
    }
    if (!freqsRead) {
      readFreqs();
    }
    int greatest = 1;
    for (int i = 0; i < inBlock; i++) {
      greatest = Math.max(greatest, freqs[i]);
    }
    return greatest;
  }

  private static double bound(Bytes at, double[] factors) {
    double greatest = 0;
    for (int n = at.readByte(); n > 0; n--) {
      int freq = at.readVarInt();
      greatest = Math.max(greatest, freq * factors[at.readByte()]);
    }
    return greatest;
  }

  /** Reads the positions in the current document, in order, into a new array. */
  public int[] positions() {
    int[] out = new int[freq()];
    positions(out);
    return out;
  }

  /**
   * Reads the positions in the current document, in order.
   *
   * @param out has room for {@link #freq()} of them
   */
  public void positions(int[] out) {
    if (places == null) {
      throw new IllegalStateException("the field has no positions");
    }
    int wanted = freq();
    if (!summed) {
      if (sums.length <= inBlock) {
        sums = new int[inBlock + 1];
      }
      for (int i = 0; i < inBlock; i++) {
        sums[i + 1] = sums[i] + freqs[i];
      }
      summed = true;
    }
    int position = 0;
    for (int i = 0; i < wanted; i++) {
      position += delta(sums[index] + i, sums[inBlock]);
      out[i] = position;
    }
  }

  private int delta(int at, int total) {
    if (chunk < 0 || at / SIZE < chunk) {
      chunk = -1;
      nextChunkAt = placesAt;
    }
    Bytes in = Objects.requireNonNull(places);
    while (chunk < at / SIZE) {
      chunk++;
      int size = Math.min(SIZE, total - chunk * SIZE);
      if (chunk < at / SIZE) {
        nextChunkAt = PackedBlock.skip(in, nextChunkAt, size);
      } else {
        if (chunkDeltas.length < size) {
          chunkDeltas = new int[total < SIZE ? size : SIZE];
        }
        nextChunkAt = decoder.decode(in, nextChunkAt, size, chunkDeltas);
      }
    }
    return chunkDeltas[at % SIZE];
  }
}
