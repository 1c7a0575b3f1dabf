package org.mnemex.engine.write;

import java.io.IOException;
import java.util.function.IntUnaryOperator;
import org.mnemex.engine.codec.PackedNumbersWriter;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.store.FileOut;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/**
 * Writes what {@link Column} reads: {@code shape u32, rows u32}, for optional values a bit per row,
 * then the indexes of first values if a row may have several, then the values.
 */
final class ColumnWriter {
  private final SegmentFile.Writer file;
  private final int number;

  ColumnWriter(SegmentFile.Writer file, int number) {
    this.file = file;
    this.number = number;
  }

  void write(SegmentContent.Rows rows) throws IOException {
    Column.Shape shape = shape(rows);
    writeHeader(rows, shape);
    if (shape == Column.Shape.MANY) {
      writeFirsts(rows);
    }
    PackedNumbersWriter values = begin(SegmentLayout.COLUMN_VALUES);
    writeValues(rows, shape, values);
  }

  /** Writes the two columns of a place field, and the shape that they share. */
  void writePlaces(SegmentContent.Rows latitudes, SegmentContent.Rows longitudes)
      throws IOException {
    Column.Shape shape = shape(latitudes);
    writeHeader(latitudes, shape);
    writeValues(latitudes, shape, begin(SegmentLayout.LATITUDES));
    writeValues(longitudes, shape, begin(SegmentLayout.LONGITUDES));
  }

  /** Writes indexes of first rows, and one more at the end. */
  void writeGroupFirsts(int documents, IntUnaryOperator counts) throws IOException {
    PackedNumbersWriter firsts = begin(SegmentLayout.GROUP_FIRSTS);
    long first = 0;
    for (int doc = 0; doc < documents; doc++) {
      firsts.add(first);
      first += counts.applyAsInt(doc);
    }
    firsts.add(first);
    firsts.finish();
    file.end();
  }

  private PackedNumbersWriter begin(int kind) throws IOException {
    return new PackedNumbersWriter(file.begin(kind, number));
  }

  private static Column.Shape shape(SegmentContent.Rows rows) {
    boolean some = false;
    boolean all = true;
    for (int row = 0; row < rows.rows(); row++) {
      int count = rows.count(row);
      if (count > 1) {
        return Column.Shape.MANY;
      }
      some |= count > 0;
      all &= count > 0;
    }
    return !some ? Column.Shape.NONE : all ? Column.Shape.ONE : Column.Shape.OPTIONAL;
  }

  private void writeHeader(SegmentContent.Rows rows, Column.Shape shape) throws IOException {
    FileOut out = file.begin(SegmentLayout.COLUMN, number);
    out.writeInt(shape.code());
    out.writeInt(rows.rows());
    if (shape == Column.Shape.OPTIONAL) {
      long word = 0;
      for (int row = 0; row < rows.rows(); row++) {
        if (rows.count(row) > 0) {
          word |= 1L << row;
        }
        if ((row & 63) == 63 || row == rows.rows() - 1) {
          out.writeLong(word);
          word = 0;
        }
      }
    }
    file.end();
  }

  private void writeFirsts(SegmentContent.Rows rows) throws IOException {
    PackedNumbersWriter firsts = begin(SegmentLayout.COLUMN_FIRSTS);
    long first = 0;
    for (int row = 0; row < rows.rows(); row++) {
      firsts.add(first);
      first += rows.count(row);
    }
    firsts.add(first);
    firsts.finish();
    file.end();
  }

  private void writeValues(SegmentContent.Rows rows, Column.Shape shape, PackedNumbersWriter values)
      throws IOException {
    if (shape != Column.Shape.NONE) {
      // Where a row has no value, the one before stands, so that the block's range stays narrow.
      long last = firstValue(rows);
      for (int row = 0; row < rows.rows(); row++) {
        int count = rows.count(row);
        if (count == 0 && shape == Column.Shape.OPTIONAL) {
          values.add(last);
        }
        for (int i = 0; i < count; i++) {
          last = rows.value(row, i);
          values.add(last);
        }
      }
    }
    values.finish();
    file.end();
  }

  private static long firstValue(SegmentContent.Rows rows) {
    for (int row = 0; row < rows.rows(); row++) {
      if (rows.count(row) > 0) {
        return rows.value(row, 0);
      }
    }
    return 0;
  }
}
