package org.mnemex.engine.read;

import org.mnemex.engine.schema.Place;

/**
 * The earth as a grid of 65,536 × 65,536 cells, numbered along a Z-curve (Morton 1966), so that
 * places near one another mostly have numbers near one another. At the equator a cell is about 610
 * m wide and 306 m high.
 */
public final class Cells {
  private static final double PER_DEGREE_NORTH = 65_536 / 180.0;
  private static final double PER_DEGREE_EAST = 65_536 / 360.0;

  private Cells() {}

  /** The cell of a place in index units, as an unsigned 32-bit number. */
  public static long of(long latitude, long longitude) {
    return number(row(Place.degrees(latitude)), column(Place.degrees(longitude)));
  }

  /** The row of a latitude, 0 at the south pole. */
  public static int row(double latitude) {
    return clamp((latitude + 90) * PER_DEGREE_NORTH);
  }

  /** The column of a longitude, 0 at -180 degrees. */
  public static int column(double longitude) {
    return clamp((longitude + 180) * PER_DEGREE_EAST);
  }

  /** The number of a cell: bits of column and row by turns, the column's lowest bit lowest. */
  public static long number(int row, int column) {
    return spread(column) | spread(row) << 1;
  }

  private static int clamp(double cell) {
    return (int) Math.max(0, Math.min(65_535, Math.floor(cell)));
  }

  private static long spread(int bits) {
    long x = bits;
    x = (x | x << 8) & 0x00FF00FFL;
    x = (x | x << 4) & 0x0F0F0F0FL;
    x = (x | x << 2) & 0x33333333L;
    return (x | x << 1) & 0x55555555L;
  }
}
