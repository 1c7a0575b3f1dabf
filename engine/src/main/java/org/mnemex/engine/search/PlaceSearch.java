package org.mnemex.engine.search;

import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.read.Cells;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Place;

/**
 * Finds the rows whose place lies in an area: the area's box becomes runs of cells along the
 * Z-curve, and every place in them is compared with the area itself.
 */
final class PlaceSearch {
  private static final int GRID_BITS = 16;

  /** A box is cut into about this many cells along its longer side. */
  private static final int FINENESS = 8;

  private final SegmentReader.PlaceColumn places;
  private final Area area;
  private final Budget budget;
  private final DocBits found;

  PlaceSearch(SegmentReader.PlaceColumn places, Area area, Budget budget) {
    this.budget = budget;
    this.places = places;
    this.area = area;
    this.found = new DocBits(places.present().rows());
  }

  DocBits rows(int rows) {
    Area.Box box = area.box();
    if (box.west() <= box.east()) {
      search(box.south(), box.west(), box.north(), box.east());
    } else {
      search(box.south(), box.west(), box.north(), 180);
      search(box.south(), -180, box.north(), box.east());
    }
    // The date line has two longitudes.
    if (box.east() == 180 && box.west() > -180) {
      search(box.south(), -180, box.north(), -180);
    } else if (box.west() == -180 && box.east() < 180) {
      search(box.south(), 180, box.north(), 180);
    }
    if (found.size() != rows) {
      throw new IllegalStateException(found.size() + " rows, " + rows + " expected");
    }
    return found;
  }

  private void search(double south, double west, double north, double east) {
    int bottom = Cells.row(south);
    int top = Cells.row(north);
    int left = Cells.column(west);
    int right = Cells.column(east);
    int longer = Math.max(top - bottom, right - left) + 1;
    int finest = Math.max(0, 31 - Integer.numberOfLeadingZeros(longer / FINENESS + 1));
    descend(0, 0, GRID_BITS, finest, new int[] {bottom, left, top, right});
  }

  /** Looks at a square of 2^bits cells a side, whose numbers are one run. */
  private void descend(int row, int column, int bits, int finest, int[] box) {
    int lastRow = row + (1 << bits) - 1;
    int lastColumn = column + (1 << bits) - 1;
    if (row > box[2] || lastRow < box[0] || column > box[3] || lastColumn < box[1]) {
      return;
    }
    boolean inside = row >= box[0] && lastRow <= box[2] && column >= box[1] && lastColumn <= box[3];
    if (inside || bits <= finest) {
      run(Cells.number(row, column), Cells.number(lastRow, lastColumn));
      return;
    }
    int half = 1 << bits - 1;
    descend(row, column, bits - 1, finest, box);
    descend(row, column + half, bits - 1, finest, box);
    descend(row + half, column, bits - 1, finest, box);
    descend(row + half, column + half, bits - 1, finest, box);
  }

  private void run(long firstCell, long lastCell) {
    PackedNumbers cells = places.cells();
    for (long at = lowerBound(cells, firstCell << 31); at < cells.size() && budget.step(); at++) {
      long cell = cells.get(at);
      if (cell >>> 31 > lastCell) {
        return;
      }
      int row = (int) (cell & 0x7FFF_FFFF);
      if (area.contains(
          Place.degrees(places.latitudes().get(row)),
          Place.degrees(places.longitudes().get(row)))) {
        found.set(row);
      }
    }
  }

  private static long lowerBound(PackedNumbers cells, long wanted) {
    long low = 0;
    long high = cells.size();
    while (low < high) {
      long middle = (low + high) >>> 1;
      if (cells.get(middle) < wanted) {
        low = middle + 1;
      } else {
        high = middle;
      }
    }
    return low;
  }
}
