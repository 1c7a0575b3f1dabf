package org.mnemex.engine.write;

import java.io.IOException;
import java.util.function.IntUnaryOperator;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;

/**
 * What a segment file is written from: pending documents, an existing segment, or several. Parts
 * are asked for one after another and streamed, so that a merge needs little memory. The rows of a
 * field are the documents; those of a group's field are the group's child rows.
 */
interface SegmentContent {
  int documents();

  /** The keys in order of their bytes. */
  KeyWalk keys();

  long hash(int doc);

  /** Hands over what is stored, in the order of documents. */
  void stored(StoredSink sink) throws IOException;

  /** The field's terms, in order of their bytes. */
  TermWalk terms(Field field);

  /** Length code of a text field by row, 0 if the row does not have it. */
  IntUnaryOperator lengthCodes(Field field);

  /** Distinct values of an exact field, in order of their bytes. */
  ValueWalk values(Field field);

  /** Values of a numeric field, or places in {@link #values} of an exact one. */
  Rows column(Field field);

  /** Latitudes or longitudes of a place field, at most one a row. */
  Rows places(Field field, boolean latitude);

  /** How many child rows of a group a document has. */
  IntUnaryOperator childRows(Field group);

  /** Walks through keys; stands before the first one at the start. */
  interface KeyWalk {
    boolean next();

    byte[] key();

    int doc();
  }

  /** Walks through terms; stands before the first one at the start. */
  interface TermWalk {
    boolean next();

    byte[] term();

    /** Hands over the rows where the current term stands, in order. */
    void postings(PostingSink sink) throws IOException;
  }

  /** Walks through values; stands before the first one at the start. */
  interface ValueWalk {
    boolean next();

    byte[] value();
  }

  /** Numbers by row, ascending in a row. */
  interface Rows {
    int rows();

    int count(int row);

    long value(int row, int which);
  }

  /** Takes a row, how often a term stands in it, and where; only the first freq are valid. */
  @FunctionalInterface
  interface PostingSink {
    /**
     * Takes one.
     *
     * @param positions null if the field has none
     */
    void accept(int doc, int freq, int @Nullable [] positions) throws IOException;
  }

  /** Takes stored documents, one by one or as they stand in a block of another segment. */
  interface StoredSink {
    void document(byte[] bytes) throws IOException;

    void block(byte[] raw, int documents) throws IOException;
  }
}
