package org.mnemex.engine.facet;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.DocBits;

/** Passes a column's values of some documents to a sink, in document order. */
final class ColumnScan {
  /** With fewer documents than this in a block of 1,024, values are read one by one. */
  private static final int FEW = 64;

  private static final int MAX_DENSE = 1 << 20;

  /** Two arrays of counts of this length fit into the L1 cache. */
  private static final int MAX_TWICE = 1 << 12;

  private final Column column;

  ColumnScan(Column column) {
    this.column = column;
  }

  /** Takes the values of one document, which are in ascending order. */
  interface Sink {
    /**
     * Takes them.
     *
     * @param values the values from {@code from} to before {@code end}
     */
    void accept(int doc, long[] values, int from, int end);
  }

  /** Whether no document has several values. */
  boolean isSingle() {
    return column.shape() != Column.Shape.MANY;
  }

  /**
   * The frequency of each number in documents with at most one value each, if the numbers are dense
   * enough for an array; else null.
   */
  @Nullable Dense dense(DocBits docs) {
    PackedNumbers values = column.values();
    if (!isSingle()) {
      return null;
    }
    long least = Long.MAX_VALUE;
    long greatest = Long.MIN_VALUE;
    for (int block = 0; block < values.blocks(); block++) {
      least = Math.min(least, values.least(block));
      greatest = Math.max(greatest, values.greatest(block));
    }
    if (least > greatest) {
      return new Dense(0, new int[0]);
    }
    if (greatest - least < 0 || greatest - least > MAX_DENSE) {
      return null;
    }
    int[] counts = new int[(int) (greatest - least) + 1];
    count(docs, counts, least);
    return new Dense(least, counts);
  }

  /**
   * Counts of dense numbers.
   *
   * @param least the number that the first count is for
   */
  record Dense(long least, int[] counts) {}

  /** Counts each ordinal in documents with at most one value each. */
  void count(DocBits docs, int[] counts) {
    count(docs, counts, 0);
  }

  private void count(DocBits docs, int[] counts, long least) {
    DocBits wanted = docs;
    if (column.shape() == Column.Shape.OPTIONAL) {
      wanted = docs.copy();
      wanted.and(column.present());
    }
    PackedNumbers values = column.values();
    PackedNumbers.Scan scan = values.scan();
    boolean twice = counts.length <= MAX_TWICE;
    int[] odd = twice ? new int[counts.length] : counts;
    for (int block = 0; block < values.blocks(); block++) {
      int first = block * PackedNumbers.BLOCK;
      int size = values.blockSize(block);
      int here = wanted.count(first, first + size);
      if (here == size) {
        scan.count(block, least, counts, odd);
      } else if (here > FEW) {
        long[] numbers = scan.block(block);
        for (int doc = wanted.next(first); doc >= 0 && doc < first + size; ) {
          counts[(int) (numbers[doc - first] - least)]++;
          doc = wanted.next(doc + 1);
        }
      } else if (here > 0) {
        for (int doc = wanted.next(first); doc >= 0 && doc < first + size; ) {
          counts[(int) (values.get(doc) - least)]++;
          doc = wanted.next(doc + 1);
        }
      }
    }
    if (twice) {
      add(odd, counts);
    }
  }

  /** Adds what was counted in a second array. */
  static void add(int[] other, int[] counts) {
    for (int i = 0; i < counts.length; i++) {
      counts[i] += other[i];
    }
  }

  /** Counts every value of the documents from {@code first} to before {@code last}. */
  void countAll(int first, int last, int[] counts) {
    PackedNumbers values = column.values();
    PackedNumbers.Scan scan = values.scan();
    boolean twice = counts.length <= MAX_TWICE;
    int[] odd = twice ? new int[counts.length] : counts;
    int end = column.end(last - 1);
    for (int at = column.first(first); at < end; ) {
      int block = at / PackedNumbers.BLOCK;
      int begin = block * PackedNumbers.BLOCK;
      int next = begin + values.blockSize(block);
      if (at == begin && next <= end) {
        scan.count(block, 0, counts, odd);
      } else {
        long[] numbers = scan.block(block);
        for (int i = at; i < Math.min(next, end); i++) {
          counts[(int) numbers[i - begin]]++;
        }
      }
      at = next;
    }
    if (twice) {
      add(odd, counts);
    }
  }

  /** Counts each ordinal in documents that may have several. */
  void countSeveral(DocBits docs, int[] counts) {
    Column.Walk walk = column.walk();
    for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
      int end = walk.end(doc);
      for (int i = walk.first(doc); i < end; i++) {
        counts[(int) walk.value(i)]++;
      }
    }
  }

  /** Passes on the values of every document that has any. */
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
    Column.Walk walk = column.walk();
    long[] own = new long[16];
    for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
      int first = walk.first(doc);
      int count = walk.end(doc) - first;
      if (count > own.length) {
        own = new long[2 * count];
      }
      for (int i = 0; i < count; i++) {
        own[i] = walk.value(first + i);
      }
      if (count > 0) {
        sink.accept(doc, own, 0, count);
      }
    }
  }
}
