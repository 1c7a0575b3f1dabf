package org.mnemex.engine.facet;

import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.DocBits;

/** Hands the values of some documents of a column to a sink, document by document, in order. */
final class ColumnScan {
  /** With fewer documents than this in a block of 1,024, single values are read instead of it. */
  private static final int FEW = 64;

  private final Column column;

  ColumnScan(Column column) {
    this.column = column;
  }

  /** Takes the values of one document, which are in ascending order. */
  interface Sink {
    /**
     * @param values the values from {@code from} to before {@code end}
     */
    void accept(int doc, long[] values, int from, int end);
  }

  /** Counts how often each ordinal stands in the documents, where each has at most one. */
  void count(DocBits docs, int[] counts) {
    DocBits wanted = docs;
    if (column.shape() == Column.Shape.OPTIONAL) {
      wanted = docs.copy();
      wanted.and(column.present());
    }
    PackedNumbers values = column.values();
    PackedNumbers.Scan scan = values.scan();
    for (int block = 0; block < values.blocks(); block++) {
      int first = block * PackedNumbers.BLOCK;
      int size = values.blockSize(block);
      int here = wanted.count(first, first + size);
      if (here == size) {
        long[] numbers = scan.block(block);
        for (int i = 0; i < size; i++) {
          counts[(int) numbers[i]]++;
        }
      } else if (here > FEW) {
        long[] numbers = scan.block(block);
        for (int doc = wanted.next(first); doc >= 0 && doc < first + size; ) {
          counts[(int) numbers[doc - first]]++;
          doc = wanted.next(doc + 1);
        }
      } else if (here > 0) {
        for (int doc = wanted.next(first); doc >= 0 && doc < first + size; ) {
          counts[(int) values.get(doc)]++;
          doc = wanted.next(doc + 1);
        }
      }
    }
  }

  /** Hands over the values of every document that has any. */
  void forEach(DocBits docs, Sink sink) {
    switch (column.shape()) {
      case NONE -> {}
      case ONE, OPTIONAL -> single(docs, sink);
      case MANY -> several(docs, sink);
    }
  }

  private void single(DocBits docs, Sink sink) {
    DocBits wanted = docs;
    if (column.shape() == Column.Shape.OPTIONAL) {
      wanted = docs.copy();
      wanted.and(column.present());
    }
    PackedNumbers values = column.values();
    PackedNumbers.Scan scan = values.scan();
    long[] one = new long[1];
    for (int block = 0; block < values.blocks(); block++) {
      int first = block * PackedNumbers.BLOCK;
      int size = values.blockSize(block);
      int here = wanted.count(first, first + size);
      if (here == 0) {
        continue;
      }
      long[] numbers = here > FEW ? scan.block(block) : null;
      for (int doc = wanted.next(first); doc >= 0 && doc < first + size; ) {
        if (numbers != null) {
          sink.accept(doc, numbers, doc - first, doc - first + 1);
        } else {
          one[0] = values.get(doc);
          sink.accept(doc, one, 0, 1);
        }
        doc = wanted.next(doc + 1);
      }
    }
  }

  private void several(DocBits docs, Sink sink) {
    long[] values = new long[16];
    for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
      int first = column.first(doc);
      int count = column.end(doc) - first;
      if (count == 0) {
        continue;
      }
      if (count > values.length) {
        values = new long[2 * count];
      }
      for (int i = 0; i < count; i++) {
        values[i] = column.value(first + i);
      }
      sink.accept(doc, values, 0, count);
    }
  }
}
