package org.mnemex.engine.write;

import java.util.Arrays;

/** Numbers of pending rows. */
final class RowBuffer implements SegmentContent.Rows {
  private int[] firsts = new int[64];
  private int rows;
  private long[] values = new long[64];
  private int used;

  /** Adds a row with these numbers. */
  void add(long... row) {
    if (rows == firsts.length) {
      firsts = Arrays.copyOf(firsts, 2 * rows);
    }
    firsts[rows++] = used;
    if (used + row.length > values.length) {
      values = Arrays.copyOf(values, Math.max(used + row.length, 2 * values.length));
    }
    System.arraycopy(row, 0, values, used, row.length);
    Arrays.sort(values, used, used + row.length);
    used += row.length;
  }

  /** Forgets the rows from {@code wanted} on. */
  void truncate(int wanted) {
    if (rows > wanted) {
      used = firsts[wanted];
      rows = wanted;
    }
  }

  long bytes() {
    return 4L * firsts.length + 8L * values.length;
  }

  @Override
  public int rows() {
    return rows;
  }

  @Override
  public int count(int row) {
    return (row + 1 < rows ? firsts[row + 1] : used) - firsts[row];
  }

  @Override
  public long value(int row, int which) {
    return values[firsts[row] + which];
  }
}
