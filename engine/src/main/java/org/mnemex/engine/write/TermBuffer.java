package org.mnemex.engine.write;

import java.io.IOException;
import java.util.Arrays;
import org.jspecify.annotations.Nullable;

/**
 * The terms of pending rows, one after another as they were analysed. Nothing is sorted until the
 * segment is written; then a counting sort by term brings the occurrences of each term together,
 * still in the order of rows and positions.
 */
final class TermBuffer {
  private final TermTable table = new TermTable();
  private final boolean positioned;
  private int[] firsts = new int[64];
  private int rows;
  private int[] terms = new int[256];
  private int[] positions = {};
  private int used;

  private int @Nullable [] order;

  TermBuffer(boolean positioned) {
    this.positioned = positioned;
  }

  /** Begins the next row. */
  void startRow() {
    if (rows == firsts.length) {
      firsts = Arrays.copyOf(firsts, 2 * rows);
    }
    firsts[rows++] = used;
    order = null;
  }

  /** Adds an occurrence to the current row. */
  void add(byte[] term, int length, int position) {
    if (used == terms.length) {
      terms = Arrays.copyOf(terms, 2 * used);
    }
    if (positioned) {
      if (used >= positions.length) {
        positions = Arrays.copyOf(positions, terms.length);
      }
      positions[used] = position;
    }
    terms[used++] = table.number(term, length);
  }

  /** Whether the current row has the term already; for values, which count once. */
  boolean rowHas(byte[] term, int length) {
    int number = table.number(term, length);
    for (int i = firsts[rows - 1]; i < used; i++) {
      if (terms[i] == number) {
        return true;
      }
    }
    return false;
  }

  /** Occurrences in the current row. */
  int inRow() {
    return used - firsts[rows - 1];
  }

  /** Forgets the rows from {@code wanted} on. */
  void truncate(int wanted) {
    if (rows > wanted) {
      used = firsts[wanted];
      rows = wanted;
    }
  }

  long bytes() {
    return table.bytes() + 4L * (firsts.length + terms.length + positions.length);
  }

  private int end(int row) {
    return row + 1 < rows ? firsts[row + 1] : used;
  }

  int count(int row) {
    return end(row) - firsts[row];
  }

  private int[] order() {
    int[] made = order;
    if (made == null) {
      made = table.inOrder();
      order = made;
    }
    return made;
  }

  /** The distinct terms in order. */
  SegmentContent.ValueWalk values() {
    int[] sorted = order();
    return new SegmentContent.ValueWalk() {
      private int at = -1;

      @Override
      public boolean next() {
        return ++at < sorted.length;
      }

      @Override
      public byte[] value() {
        return table.get(sorted[at]);
      }
    };
  }

  /** The places of each row's terms in {@link #values}, ascending. */
  SegmentContent.Rows ordinals() {
    int[] sorted = order();
    int[] place = new int[sorted.length];
    for (int i = 0; i < sorted.length; i++) {
      place[sorted[i]] = i;
    }
    int[] ordinals = new int[used];
    for (int i = 0; i < used; i++) {
      ordinals[i] = place[terms[i]];
    }
    for (int row = 0; row < rows; row++) {
      Arrays.sort(ordinals, firsts[row], end(row));
    }
    return new SegmentContent.Rows() {
      @Override
      public int rows() {
        return rows;
      }

      @Override
      public int count(int row) {
        return TermBuffer.this.count(row);
      }

      @Override
      public long value(int row, int which) {
        return ordinals[firsts[row] + which];
      }
    };
  }

  /** The terms with their rows. */
  SegmentContent.TermWalk terms() {
    // By number, not yet by order: frequent terms are seen early, so theirs lie close together.
    int[] starts = new int[table.size() + 1];
    for (int i = 0; i < used; i++) {
      starts[terms[i] + 1]++;
    }
    for (int i = 0; i < table.size(); i++) {
      starts[i + 1] += starts[i];
    }
    int[] next = Arrays.copyOf(starts, table.size());
    // Row and position in one number: what is scattered here costs a cache miss each.
    long[] occurrences = new long[used];
    for (int row = 0; row < rows; row++) {
      int end = end(row);
      for (int i = firsts[row]; i < end; i++) {
        int position = positioned ? positions[i] : 0;
        occurrences[next[terms[i]]++] = (long) row << 32 | position;
      }
    }
    return new Walk(order(), starts, occurrences);
  }

  private final class Walk implements SegmentContent.TermWalk {
    private final int[] sorted;
    private final int[] starts;
    private final long[] occurrences;
    private int at = -1;
    private int[] here = new int[16];

    Walk(int[] sorted, int[] starts, long[] occurrences) {
      this.sorted = sorted;
      this.starts = starts;
      this.occurrences = occurrences;
    }

    @Override
    public boolean next() {
      return ++at < sorted.length;
    }

    @Override
    public byte[] term() {
      return table.get(sorted[at]);
    }

    @Override
    public void postings(SegmentContent.PostingSink sink) throws IOException {
      int end = starts[sorted[at] + 1];
      for (int i = starts[sorted[at]]; i < end; ) {
        int row = (int) (occurrences[i] >>> 32);
        int freq = 0;
        boolean ascending = true;
        while (i < end && (int) (occurrences[i] >>> 32) == row) {
          if (freq == here.length) {
            here = Arrays.copyOf(here, 2 * freq);
          }
          here[freq] = (int) occurrences[i++];
          ascending &= freq == 0 || here[freq - 1] <= here[freq];
          freq++;
        }
        if (!ascending) {
          // Filters that add terms, such as word pairs, may give them out of order.
          Arrays.sort(here, 0, freq);
        }
        sink.accept(row, freq, positioned ? here : null);
      }
    }
  }
}
