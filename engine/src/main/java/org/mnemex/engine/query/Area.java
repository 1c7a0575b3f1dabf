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
            "the polygon goes all the way round the earth, so it has no clear inside; use a box or a distance");
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
