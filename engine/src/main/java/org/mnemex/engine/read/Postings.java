package org.mnemex.engine.read;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.store.Bytes;

/**
 * The documents of one term in order, with frequencies and positions. Before the first {@link
 * #next()} the cursor stands before the first document.
 */
public final class Postings {
  /** Where a cursor stands that has no more documents. */
  public static final int END = Integer.MAX_VALUE;

  private final Bytes docs;
  private final @Nullable Bytes places;
  private final int count;
  private int read;
  private int doc = -1;
  private int freq;
  private int pendingPositions;

  Postings(int count, Bytes docs, @Nullable Bytes places) {
    this.count = count;
    this.docs = docs;
    this.places = places;
  }

  /** In how many documents of the segment, deleted ones included, the term stands. */
  public int count() {
    return count;
  }

  public int doc() {
    return doc;
  }

  /** How often the term stands in the current document. */
  public int freq() {
    return freq;
  }

  /** Goes to the next document, or to {@link #END}. */
  public int next() {
    if (read == count) {
      return doc = END;
    }
    read++;
    int code = docs.readVarInt();
    doc = (doc < 0 ? 0 : doc) + (code >>> 1);
    pendingPositions += freq;
    freq = (code & 1) == 1 ? 1 : docs.readVarInt();
    return doc;
  }

  /** Goes to the first document at or after {@code target}, which must not be behind the cursor. */
  public int advance(int target) {
    while (doc < target) {
      next();
    }
    return doc;
  }

  /** The positions in the current document, in order. May be called once a document. */
  public int[] positions() {
    if (places == null) {
      throw new IllegalStateException("the field has no positions");
    }
    for (; pendingPositions > 0; pendingPositions--) {
      places.readVarInt();
    }
    int[] out = new int[freq];
    int position = 0;
    for (int i = 0; i < freq; i++) {
      position += places.readVarInt();
      out[i] = position;
    }
    pendingPositions = -freq;
    return out;
  }
}
