package org.mnemex.engine.read;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.store.Bytes;

/**
 * Numbers by row: the values of a numeric field, or the places in a dictionary of an exact one. A
 * row is a document, or a child row of a group. The values of a row are in ascending order.
 */
public final class Column {
  /** How many values rows have. */
  public enum Shape {
    /** No row has any. */
    NONE(0),
    /** Every row has one. */
    ONE(1),
    /** A row has one or none; a row without one has some number in its place. */
    OPTIONAL(2),
    /** A row may have several. */
    MANY(3);

    private final int code;

    Shape(int code) {
      this.code = code;
    }

    /** The number that stands for it in files. */
    public int code() {
      return code;
    }
  }

  private static final long PRESENT = 8;

  private final Shape shape;
  private final int rows;
  private final Bytes header;
  private final @Nullable PackedNumbers firsts;
  private final PackedNumbers values;

  Column(Bytes header, @Nullable Bytes firsts, Bytes values) {
    this.header = header;
    this.shape = Shape.values()[header.intAt(0)];
    this.rows = header.intAt(4);
    this.firsts = firsts == null ? null : new PackedNumbers(firsts);
    this.values = new PackedNumbers(values);
  }

  static boolean hasFirsts(Bytes header) {
    return header.intAt(0) == Shape.MANY.code();
  }

  public Shape shape() {
    return shape;
  }

  public int rows() {
    return rows;
  }

  /** Index of a row's first value. */
  public int first(int row) {
    return firsts == null ? row : (int) firsts.get(row);
  }

  /** Index after a row's last value. */
  public int end(int row) {
    if (firsts != null) {
      return (int) firsts.get(row + 1L);
    }
    return has(row) ? row + 1 : row;
  }

  /** Reads row after row; one per thread. */
  public final class Walk {
    private final PackedNumbers.@Nullable Walk firstWalk = firsts == null ? null : firsts.walk();
    private final PackedNumbers.Walk valueWalk = values.walk();

    /** Index of a row's first value. */
    public int first(int row) {
      return firstWalk == null ? row : (int) firstWalk.get(row);
    }

    /** Index after a row's last value. */
    public int end(int row) {
      if (firstWalk != null) {
        return (int) firstWalk.get(row + 1L);
      }
      return has(row) ? row + 1 : row;
    }

    /** The value at an index of {@link #first} to {@link #end}. */
    public long value(int index) {
      return valueWalk.get(index);
    }
  }

  /** A reader of rows one after another. */
  public Walk walk() {
    return new Walk();
  }

  /** Whether a row has a value. */
  public boolean has(int row) {
    return switch (shape) {
      case NONE -> false;
      case ONE -> true;
      case OPTIONAL -> (header.longAt(PRESENT + 8L * (row >>> 6)) & 1L << row) != 0;
      case MANY -> first(row) < end(row);
    };
  }

  /** The rows that have a value. */
  public DocBits present() {
    if (shape == Shape.ONE) {
      return DocBits.all(rows);
    }
    if (shape == Shape.OPTIONAL) {
      long[] words = new long[(rows + 63) >>> 6];
      for (int i = 0; i < words.length; i++) {
        words[i] = header.longAt(PRESENT + 8L * i);
      }
      return DocBits.of(words, rows);
    }
    DocBits bits = new DocBits(rows);
    for (int row = 0; shape == Shape.MANY && row < rows; row++) {
      if (has(row)) {
        bits.set(row);
      }
    }
    return bits;
  }

  /** The value at an index of {@link #first} to {@link #end}. */
  public long value(int index) {
    return values.get(index);
  }

  /** All values one after another, for reading in blocks. */
  public PackedNumbers values() {
    return values;
  }
}
