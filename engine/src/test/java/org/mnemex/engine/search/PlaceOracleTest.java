package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.IntStream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;

/** Areas anywhere on the earth, over poles and the date line too, against scans by formula. */
class PlaceOracleTest {
  private static final Schema SCHEMA =
      new Schema(List.of(Field.of("place", FieldType.PLACE, null, Use.FILTER, Use.SHOW)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  private EditionFolder edition(List<Place> places) throws IOException {
    EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA);
    for (int i = 0; i < places.size(); i++) {
      edition.put(new Document("k" + i, Map.of("place", List.of(places.get(i))), new byte[0], 1));
    }
    edition.refresh(Checkpoint.NONE);
    return edition;
  }

  private static void check(
      EditionFolder edition, List<Place> places, String filter, Predicate<Place> inside) {
    SearchResult result =
        edition.search(
            new SearchRequest(
                new Query.Everything(),
                FilterText.parse(filter, SCHEMA),
                null,
                0,
                places.size(),
                List.of(),
                Set.of(),
                List.of()));
    assertThat(result.hits())
        .as(filter)
        .extracting(SearchResult.Hit::key)
        .containsExactlyInAnyOrderElementsOf(
            IntStream.range(0, places.size())
                .filter(i -> inside.test(places.get(i)))
                .mapToObj(i -> "k" + i)
                .toList());
  }

  /** In the units that the index keeps. */
  private static Place place(double latitude, double longitude) {
    return new Place(Place.degrees(Place.units(latitude)), Place.degrees(Place.units(longitude)));
  }

  private static Place anywhere(Random random) {
    double latitude =
        random.nextInt(4) == 0 ? 90 - random.nextInt(13) * 15 : random.nextDouble(-90, 90);
    double longitude =
        random.nextInt(4) == 0 ? 180 - random.nextInt(25) * 15 : random.nextDouble(-180, 180);
    return place(latitude, longitude);
  }

  @Property(tries = 40)
  void everyAreaEqualsAScan(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    List<Place> places = new ArrayList<>();
    for (int i = 0; i < 600; i++) {
      places.add(anywhere(random));
    }
    try (EditionFolder edition = edition(places)) {
      for (int i = 0; i < 12; i++) {
        Place centre = random.nextBoolean() ? anywhere(random) : places.get(random.nextInt(600));
        double metres = Math.floor(Math.pow(10, random.nextDouble(0, 7.4)));
        check(
            edition,
            places,
            "DISTANCE(place, %s, %s) <= %.0f"
                .formatted(plain(centre.latitude()), plain(centre.longitude()), metres),
            p -> centre.metresTo(p.latitude(), p.longitude()) <= metres);
        Place corner = anywhere(random);
        Place other = anywhere(random);
        double south = Math.min(corner.latitude(), other.latitude());
        double north = Math.max(corner.latitude(), other.latitude());
        long width = east(corner.longitude(), other.longitude());
        boolean whole = corner.longitude() == -180 && other.longitude() == 180;
        check(
            edition,
            places,
            "INSIDE(place, BOX(%s, %s, %s, %s))"
                .formatted(
                    plain(south),
                    plain(corner.longitude()),
                    plain(north),
                    plain(other.longitude())),
            p ->
                p.latitude() >= south
                    && p.latitude() <= north
                    && (whole || east(corner.longitude(), p.longitude()) <= width));
        triangle(random, edition, places);
      }
    }
  }

  /** How far a longitude is to the east of another in the index's units, less than once round. */
  private static long east(double from, double to) {
    return Math.floorMod(Place.units(to) - Place.units(from), Place.units(360));
  }

  /** Signs of areas tell on which side of a line a point is. */
  private static void triangle(Random random, EditionFolder edition, List<Place> places) {
    double[] x = new double[3];
    double[] y = new double[3];
    StringBuilder corners = new StringBuilder();
    double west = random.nextDouble(-180, 180);
    for (int i = 0; i < 3; i++) {
      x[i] = Place.degrees(Place.units(west + random.nextDouble(0, 170)));
      y[i] = Place.degrees(Place.units(random.nextDouble(-90, 90)));
      corners.append(i == 0 ? "" : ", ");
      corners.append(plain(y[i])).append(", ");
      corners.append(plain(x[i] > 180 ? Place.degrees(Place.units(x[i] - 360)) : x[i]));
    }
    check(
        edition,
        places,
        "INSIDE(place, POLYGON(" + corners + "))",
        p -> {
          for (int turn = 0; turn <= 1; turn++) {
            double at = p.longitude() + 360 * turn;
            double a = side(x, y, 0, at, p.latitude());
            double b = side(x, y, 1, at, p.latitude());
            double c = side(x, y, 2, at, p.latitude());
            if (a > 0 && b > 0 && c > 0 || a < 0 && b < 0 && c < 0) {
              return true;
            }
          }
          return false;
        });
  }

  private static double side(double[] x, double[] y, int corner, double atX, double atY) {
    int next = (corner + 1) % 3;
    return (x[next] - x[corner]) * (atY - y[corner]) - (y[next] - y[corner]) * (atX - x[corner]);
  }

  private static String plain(double degrees) {
    return BigDecimal.valueOf(degrees).toPlainString();
  }

  @Test
  void wholeEarthFarCirclesAndHoles() throws IOException {
    List<Place> places =
        List.of(
            place(90, 180),
            place(-90, -180),
            place(51, 0),
            place(35, 139),
            place(-33, 151),
            place(10, -180),
            place(10, 180));
    try (EditionFolder edition = edition(places)) {
      check(edition, places, "INSIDE(place, BOX(-90, -180, 90, 180))", p -> true);
      check(edition, places, "DISTANCE(place, 51, 0) < 20100000", p -> true);
      check(
          edition,
          places,
          "DISTANCE(place, 35, 139) < 10000000",
          p -> place(35, 139).metresTo(p.latitude(), p.longitude()) <= 1e7);
      check(edition, places, "INSIDE(place, BOX(0, 170, 20, 180))", p -> p.latitude() == 10);
      check(edition, places, "INSIDE(place, BOX(0, -180, 20, -170))", p -> p.latitude() == 10);
      check(
          edition,
          places,
          "INSIDE(place, POLYGON(0, 170, 0, -170, 20, -170, 20, 170))",
          p -> p.latitude() == 10);
      check(
          edition,
          places,
          "INSIDE(place, POLYGON(30, -10, 60, -10, 60, 150, 30, 150)) AND NOT INSIDE(place, POLYGON(50, -1, 52, -1, 52, 1, 50, 1))",
          p -> p.latitude() == 35);
    }
  }

  @Test
  void areasWithoutAClearInsideAreRefused() {
    refused("BOX(10, 0, -10, 20)", "the south of a box, 10.0, must not be above its north, -10.0");
    refused("POLYGON(0, -180, 0, 180, 50, 180, 50, -180)", "which is the same; use a box");
    refused("POLYGON(60, 0, 60, 120, 60, -120)", "goes all the way around the earth");
    refused("POLYGON(0, 0, 1, 1)", "a polygon has 3 to 1000 corners, not 2");
    refused("POLYGON(0, 0, 1, 1.2.3, 5, 5)", "expected a number, found '1.2.3'");
    assertThat(new Area.Polygon(List.of(place(0, 170), place(0, -170), place(20, -170))).box())
        .isEqualTo(new Area.Box(0, 170, 20, -170));
  }

  private static void refused(String area, String why) {
    assertThatThrownBy(() -> FilterText.parse("INSIDE(place, " + area + ")", SCHEMA))
        .isInstanceOf(FilterSyntaxException.class)
        .hasMessageContaining(why);
  }
}
