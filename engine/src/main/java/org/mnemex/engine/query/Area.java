package org.mnemex.engine.query;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Place;

/** A part of the earth's surface. */
public sealed interface Area {
  /** Whether a place lies in it, its edge included. */
  boolean contains(double latitude, double longitude);

  /** A box around it; may be larger than needed. */
  Box box();

  /** Everything at most {@code metres} from a place. */
  record Circle(Place centre, double metres) implements Area {
    private static final double METRES_PER_DEGREE = 111_000;

    public Circle {
      if (!(metres >= 0)) {
        throw new IllegalArgumentException("a distance is 0 metres or more, not " + metres);
      }
    }

    @Override
    public boolean contains(double latitude, double longitude) {
      return centre.metresTo(latitude, longitude) <= metres;
    }

    @Override
    public Box box() {
      double north = metres / METRES_PER_DEGREE;
      double south = Math.max(-90, centre.latitude() - north);
      double top = Math.min(90, centre.latitude() + north);
      double narrowest = Math.cos(Math.toRadians(Math.max(Math.abs(south), Math.abs(top))));
      double east = narrowest <= 1e-6 ? 360 : north / narrowest;
      // Over a pole or the date line: all the way round is simple, and right.
      return centre.longitude() - east < -180 || centre.longitude() + east > 180
          ? new Box(south, -180, top, 180)
          : new Box(south, centre.longitude() - east, top, centre.longitude() + east);
    }
  }

  /**
   * Between two latitudes and two longitudes.
   *
   * @param east where it is less than {@code west}, the box crosses the date line
   */
  record Box(double south, double west, double north, double east) implements Area {
    public Box {
      if (!(south <= north)) {
        throw new IllegalArgumentException(
            "the south of a box, %s, must not be above its north, %s".formatted(south, north));
      }
    }

    @Override
    public boolean contains(double latitude, double longitude) {
      // The date line has two longitudes.
      return latitude >= south
          && latitude <= north
          && (isBetween(longitude) || Math.abs(longitude) == 180 && isBetween(-longitude));
    }

    private boolean isBetween(double longitude) {
      return west <= east
          ? longitude >= west && longitude <= east
          : longitude >= west || longitude <= east;
    }

    @Override
    public Box box() {
      return this;
    }
  }

  /**
   * A square of a web map, in the numbering that web maps share: the earth between 85.05 degrees
   * south and north in the Mercator projection, cut into 2^zoom by 2^zoom squares, counted from the
   * north-west. Places closer to a pole belong to the outermost row. Every place is in exactly one
   * square of a zoom.
   *
   * @param zoom 0 to {@link #MAX_ZOOM}
   * @param x from 0 in the west
   * @param y from 0 in the north
   */
  record Tile(int zoom, int x, int y) implements Area {
    /** The zoom of squares of about ten metres at the equator. */
    public static final int MAX_ZOOM = 22;

    /** Wider than any rounding, in degrees. */
    private static final double SLACK = 1e-6;

    public Tile {
      if (zoom < 0 || zoom > MAX_ZOOM || x < 0 || y < 0 || x >= 1 << zoom || y >= 1 << zoom) {
        throw new IllegalArgumentException(
            "a square of a map has a zoom of 0 to %d and numbers below 2^zoom, not %d/%d/%d"
                .formatted(MAX_ZOOM, zoom, x, y));
      }
    }

    /** The square of a place. */
    public static Tile of(int zoom, double latitude, double longitude) {
      double size = 1 << zoom;
      double sine = Math.sin(Math.toRadians(latitude));
      double north = 0.5 - Math.log((1 + sine) / (1 - sine)) / (4 * Math.PI);
      return new Tile(
          zoom, number((longitude + 180) / 360 * size, size), number(north * size, size));
    }

    private static int number(double at, double size) {
      return (int) Math.max(0, Math.min(size - 1, Math.floor(at)));
    }

    /**
     * Reads {@code zoom/x/y}.
     *
     * @throws IllegalArgumentException with a sentence, if it is none
     */
    public static Tile parse(String text) {
      String[] parts = text.split("/", -1);
      try {
        if (parts.length == 3) {
          return new Tile(
              Integer.parseInt(parts[0]), Integer.parseInt(parts[1]), Integer.parseInt(parts[2]));
        }
      } catch (NumberFormatException e) {
        // Said below.
      }
      throw new IllegalArgumentException(
          "'" + text + "' is not a square of a map; write zoom/x/y like 6/31/21");
    }

    @Override
    public boolean contains(double latitude, double longitude) {
      return of(zoom, latitude, longitude).equals(this);
    }

    @Override
    public Box box() {
      int size = 1 << zoom;
      return new Box(
          y == size - 1 ? -90 : latitude(y + 1, size) - SLACK,
          Math.max(-180, 360.0 * x / size - 180 - SLACK),
          y == 0 ? 90 : latitude(y, size) + SLACK,
          Math.min(180, 360.0 * (x + 1) / size - 180 + SLACK));
    }

    private static double latitude(int y, int size) {
      return Math.toDegrees(Math.atan(Math.sinh(Math.PI * (1 - 2.0 * y / size))));
    }

    @Override
    public String toString() {
      return zoom + "/" + x + "/" + y;
    }
  }

  /**
   * Inside a polygon whose sides are straight on a map of equal degrees, by the even-odd rule. Of
   * two corners whose longitudes differ by more than 180 degrees the side goes the shorter way,
   * over the date line. A place on a side may lie in the polygon or not.
   */
  final class Polygon implements Area {
    /** The greatest number of corners. */
    public static final int MAX_CORNERS = 1_000;

    private final List<Place> corners;

    /** In degrees; beyond 180 where the polygon crosses the date line. */
    private final double[] longitudes;

    private final double west;
    private final double east;

    /**
     * @param corners one after the other; the last is joined to the first
     * @throws IllegalArgumentException if there are too few or too many corners, or the polygon has
     *     no clear inside
     */
    public Polygon(List<Place> corners) {
      this.corners = List.copyOf(corners);
      if (corners.size() < 3 || corners.size() > MAX_CORNERS) {
        throw new IllegalArgumentException(
            "a polygon has 3 to " + MAX_CORNERS + " corners, not " + corners.size());
      }
      longitudes = new double[corners.size()];
      double least = Double.MAX_VALUE;
      double greatest = -Double.MAX_VALUE;
      int turns = 0;
      for (int i = 0; i < longitudes.length; i++) {
        longitudes[i] = corners.get(i).longitude() + 360 * turns;
        least = Math.min(least, longitudes[i]);
        greatest = Math.max(greatest, longitudes[i]);
        turns += turns(corners.get(i), corners.get((i + 1) % longitudes.length));
      }
      if (turns != 0 || greatest - least > 360) {
        throw new IllegalArgumentException(
            "the polygon goes all the way around the earth, so it has no inside; use a box or a distance");
      }
      west = least;
      east = greatest;
    }

    /** How often the way from one corner to the next crosses the date line to the east. */
    private static int turns(Place from, Place to) {
      double degrees = to.longitude() - from.longitude();
      if (Math.abs(degrees) == 360) {
        throw new IllegalArgumentException(
            "a side of the polygon goes from longitude %s to %s, which is the same; use a box for all the way round, or put a corner between them"
                .formatted(from.longitude(), to.longitude()));
      }
      return degrees > 180 ? -1 : degrees < -180 ? 1 : 0;
    }

    /** Its corners as they were given. */
    public List<Place> corners() {
      return corners;
    }

    @Override
    public boolean contains(double latitude, double longitude) {
      double x = longitude;
      while (x < west) {
        x += 360;
      }
      while (x - 360 >= west) {
        x -= 360;
      }
      boolean inside = false;
      for (int i = 0, j = longitudes.length - 1; i < longitudes.length; j = i++) {
        double a = corners.get(i).latitude();
        double b = corners.get(j).latitude();
        if (a > latitude != b > latitude
            && x < (longitudes[j] - longitudes[i]) * (latitude - a) / (b - a) + longitudes[i]) {
          inside = !inside;
        }
      }
      return inside;
    }

    @Override
    public Box box() {
      double south = corners.stream().mapToDouble(Place::latitude).min().orElse(-90);
      double north = corners.stream().mapToDouble(Place::latitude).max().orElse(90);
      return east - west == 360 || west == -180 && east == 180
          ? new Box(south, -180, north, 180)
          : new Box(south, within180(west), north, within180(east));
    }

    private static double within180(double longitude) {
      return longitude > 180 ? longitude - 360 : longitude < -180 ? longitude + 360 : longitude;
    }

    @Override
    public boolean equals(@Nullable Object other) {
      return other instanceof Polygon polygon && corners.equals(polygon.corners);
    }

    @Override
    public int hashCode() {
      return corners.hashCode();
    }

    @Override
    public String toString() {
      return "Polygon" + corners;
    }
  }
}
