package org.mnemex.engine.write;

import java.util.List;
import org.mnemex.engine.schema.Field;

/** What a segment file is written from: pending documents, an existing segment, or several. */
interface SegmentContent {
  int documents();

  byte[] key(int doc);

  long hash(int doc);

  byte[] stored(int doc);

  /** The field's terms, in order of their bytes. */
  TermCursor terms(Field field);

  /** Number of positions of a text field, 0 if the document does not have it. */
  int length(Field field, int doc);

  /** Values of a numeric field, ascending. */
  long[] numbers(Field field, int doc);

  /** Distinct values of an exact field, in order of their bytes. */
  List<byte[]> values(Field field);

  /** Places in {@link #values} of a document, ascending. */
  int[] ordinals(Field field, int doc);

  /** Walks through terms; stands before the first one at the start. */
  interface TermCursor {
    boolean next();

    byte[] term();

    /** Hands over the current term's documents, in order. */
    void postings(PostingSink sink);
  }

  /** Takes a document, how often a term stands in it, and where; only the first freq are valid. */
  @FunctionalInterface
  interface PostingSink {
    void accept(int doc, int freq, int[] positions);
  }
}
