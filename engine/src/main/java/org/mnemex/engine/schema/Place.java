package org.mnemex.engine.schema;

/**
 * A point on the earth (WGS 84), with the great-circle distance on a sphere of 6,371,008.8 m, the
 * mean radius of IUGG.
 *
 * @param latitude degrees north, -90 to 90
 * @param longitude degrees east, -180 to 180
 */
public record Place(double latitude, double longitude) {
  private static final double RADIUS_METRES = 6_371_008.8;
  private static final double UNITS_PER_DEGREE = 1e7;

  public Place {
    if (!(latitude >= -90 && latitude <= 90 && longitude >= -180 && longitude <= 180)) {
      throw new IllegalArgumentException(
          "latitude "
              + latitude
              + ", longitude "
              + longitude
              + " is not a place; latitudes are -90 to 90, longitudes -180 to 180");
    }
  }

  /** Degrees as the index keeps them, in units of 1e-7. */
  public static long units(double degrees) {
    return Math.round(degrees * UNITS_PER_DEGREE);
  }

  /** The degrees of {@link #units}. */
  public static double degrees(long units) {
    return units / UNITS_PER_DEGREE;
  }

  /** Metres to another place by the haversine formula. */
  public double metresTo(double otherLatitude, double otherLongitude) {
    double a = Math.toRadians(latitude);
    double b = Math.toRadians(otherLatitude);
    double up = Math.sin((b - a) / 2);
    double across = Math.sin(Math.toRadians(otherLongitude - longitude) / 2);
    double h = up * up + Math.cos(a) * Math.cos(b) * across * across;
    return 2 * RADIUS_METRES * Math.asin(Math.min(1, Math.sqrt(h)));
  }
}
