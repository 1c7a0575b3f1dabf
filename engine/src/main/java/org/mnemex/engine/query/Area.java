package org.mnemex.engine.query;

import java.util.List;
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
    @Override
    public boolean contains(double latitude, double longitude) {
      return latitude >= south
          && latitude <= north
          && (west <= east
              ? longitude >= west && longitude <= east
              : longitude >= west || longitude <= east);
    }

    @Override
    public Box box() {
      return this;
    }
  }

  /**
   * Inside a polygon whose sides are straight on a map of equal degrees, by the even-odd rule. It
   * may not cross the date line.
   */
  record Polygon(List<Place> corners) implements Area {
    /** Most corners. */
    public static final int MOST_CORNERS = 1_000;

    public Polygon {
      corners = List.copyOf(corners);
      if (corners.size() < 3 || corners.size() > MOST_CORNERS) {
        throw new IllegalArgumentException(
            "a polygon has 3 to " + MOST_CORNERS + " corners, not " + corners.size());
      }
    }

    @Override
    public boolean contains(double latitude, double longitude) {
      boolean inside = false;
      for (int i = 0, j = corners.size() - 1; i < corners.size(); j = i++) {
        Place a = corners.get(i);
        Place b = corners.get(j);
        if (a.latitude() > latitude != b.latitude() > latitude
            && longitude
                < (b.longitude() - a.longitude())
                        * (latitude - a.latitude())
                        / (b.latitude() - a.latitude())
                    + a.longitude()) {
          inside = !inside;
        }
      }
      return inside;
    }

    @Override
    public Box box() {
      return new Box(
          corners.stream().mapToDouble(Place::latitude).min().orElse(-90),
          corners.stream().mapToDouble(Place::longitude).min().orElse(-180),
          corners.stream().mapToDouble(Place::latitude).max().orElse(90),
          corners.stream().mapToDouble(Place::longitude).max().orElse(180));
    }
  }
}
