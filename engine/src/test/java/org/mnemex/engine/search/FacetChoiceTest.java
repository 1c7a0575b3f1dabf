package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.mnemex.engine.ApartShards;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.HelpingThreads;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.CellFacet;
import org.mnemex.engine.facet.DateFacet;
import org.mnemex.engine.facet.DateUnit;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.HistogramFacet;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.facet.OrNoneFacet;
import org.mnemex.engine.facet.PathFacet;
import org.mnemex.engine.facet.RangeFacet;
import org.mnemex.engine.facet.RowFacet;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Folding;

/**
 * The count of a facet's value is the number of results once it is chosen, for every kind of facet,
 * whatever is chosen in the others, with values at the ends of what there can be.
 */
class FacetChoiceTest {
  private static final Use[] USES = {Use.FACET, Use.FILTER};
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              new Field("name", FieldType.EXACT, Set.of(USES), true, 1, null, null, 0, List.of()),
              Field.of("tag", FieldType.EXACT, null, USES),
              Field.of("number", FieldType.INTEGER, null, USES),
              Field.decimal("price", 2, USES),
              Field.of("day", FieldType.DATE, null, USES),
              Field.of("seen", FieldType.INSTANT, null, USES),
              Field.of("near", FieldType.DATE, null, USES),
              Field.of("place", FieldType.PLACE, null, Use.FILTER),
              Field.of("bed", FieldType.PATH, null, USES),
              Field.group(
                  "visit",
                  List.of(
                      new Field(
                          "visit.who",
                          FieldType.EXACT,
                          Set.of(Use.FILTER),
                          true,
                          1,
                          null,
                          null,
                          0,
                          List.of()),
                      Field.of("visit.count", FieldType.INTEGER, null, Use.FILTER)))));
  private static final ZoneId ZONE = ZoneId.of("Europe/London");

  private static final String NONE = "none of these";
  private static final int BEDS = 11;

  /** Facets of which a result must have all that is chosen. */
  private static final Set<Integer> TOGETHER = Set.of(12, 15, 17);

  private final TemporaryFolders folders = new TemporaryFolders();
  private int asked;

  @AfterTry
  void clean() {
    folders.close();
  }

  @Property(tries = 60)
  void countsAreWhatAChoiceFinds(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      // Fields of one value have columns of another shape.
      int most = random.nextInt(3) == 0 ? 2 : 4;
      for (int i = random.nextInt(120); i >= 0; i--) {
        edition.put(document("k" + i, random, most));
        if (random.nextInt(40) == 0) {
          edition.refresh(Checkpoint.NONE);
        }
      }
      edition.refresh(Checkpoint.NONE);
      List<List<Object>> chosen = new ArrayList<>();
      requests(chosen).forEach(request -> chosen.add(List.of()));
      for (int step = 0; step < 4; step++) {
        List<FacetResult> facets = search(edition, requests(chosen), 0).facets();
        for (int facet = 0; facet < facets.size(); facet++) {
          for (FacetResult.Value value : facets.get(facet).values()) {
            List<List<Object>> one = new ArrayList<>(chosen);
            one.set(facet, with(value.value(), TOGETHER.contains(facet), chosen.get(facet)));
            SearchResult result = search(edition, requests(one), 1000);
            assertThat(result.total())
                .as("%s = %s, besides %s", requests(one).get(facet), value, chosen)
                .isEqualTo(value.count());
            assertThat(result.facets().get(facet).values())
                .as("what is chosen is shown as chosen")
                .filteredOn(FacetResult.Value::chosen)
                .extracting(shown -> spelling(shown.value()))
                .containsExactlyInAnyOrderElementsOf(
                    one.get(facet).stream()
                        .map(FacetChoiceTest::spelling)
                        .collect(Collectors.toSet()));
            if (value.split() != null && chosen.get(BEDS).isEmpty()) {
              for (FacetResult.Value inner : value.split().values()) {
                one.set(BEDS, List.of(inner.value()));
                assertThat(search(edition, requests(one), 0).total())
                    .as("%s in %s", inner, value)
                    .isEqualTo(inner.count());
              }
            }
          }
        }
        choose(random, chosen, facets);
      }
    }
  }

  /** Names are one value however they are written; the most frequent spelling is shown. */
  private static Object spelling(Object value) {
    return value instanceof String text && text.length() > 1 ? Folding.foldCase(text) : value;
  }

  private static List<Object> with(Object value, boolean together, List<Object> chosen) {
    List<Object> all = new ArrayList<>(together ? chosen : List.of());
    if (!all.contains(value)) {
      all.add(value);
    }
    return all;
  }

  /** Chooses something more, mostly what is there. */
  private static void choose(Random random, List<List<Object>> chosen, List<FacetResult> facets) {
    int facet = random.nextInt(facets.size());
    List<FacetResult.Value> values = facets.get(facet).values();
    if (!values.isEmpty()) {
      Object value = values.get(random.nextInt(values.size())).value();
      chosen.set(facet, with(value, TOGETHER.contains(facet), chosen.get(facet)));
    }
    if (random.nextInt(4) == 0) {
      // Nothing is left then; the facet's own values are counted all the same.
      chosen.set(1, List.of("nobody has it"));
    }
  }

  /** By one thread, by several, and as from another place, in turn, which must not matter. */
  private SearchResult search(EditionFolder edition, List<FacetRequest> facets, int size) {
    SearchView view =
        switch (asked++ % 3) {
          case 0 -> edition.view();
          case 1 -> edition.view().helpedBy(new HelpingThreads(3));
          default -> ApartShards.view(edition);
        };
    Query everything = new Query.Everything();
    return view.search(
        new SearchRequest(everything, everything, null, 0, size, facets, Set.of(), List.of()));
  }

  private static List<FacetRequest> requests(List<List<Object>> chosen) {
    List<Interval> prices =
        List.of(
            new Interval("..1.005", null, new BigDecimal("1.005")),
            new Interval("1.005..2", new BigDecimal("1.005"), new BigDecimal("2")),
            new Interval("2..", new BigDecimal("2"), null));
    return List.of(
        new ValueFacet("name", "name", of(chosen, 0), 1000, FacetOrder.COUNT),
        new ValueFacet("tag", "tag", of(chosen, 1), 1000, FacetOrder.COUNT),
        new ValueFacet("numbers", "number", of(chosen, 2), 1000, FacetOrder.VALUE),
        new HistogramFacet("wide", "number", 1L << 60, intervals(chosen, 3)),
        new ValueFacet("price", "price", of(chosen, 4), 1000, FacetOrder.VALUE),
        new RangeFacet("prices", "price", prices, intervals(chosen, 5)),
        new HistogramFacet("steps", "price", new BigDecimal("0.30"), intervals(chosen, 6)),
        new DateFacet("weeks", "day", DateUnit.WEEK, ZONE, intervals(chosen, 7)),
        new DateFacet("years", "day", DateUnit.YEAR, ZONE, intervals(chosen, 8)),
        new DateFacet("hours", "seen", DateUnit.HOUR, ZONE, intervals(chosen, 9)),
        new DateFacet("months", "seen", DateUnit.MONTH, ZONE, intervals(chosen, 10)),
        new PathFacet("beds", "bed", "", of(chosen, BEDS), 1000),
        together("tags", "tag", of(chosen, 12)),
        orNone(
            of(chosen, 13),
            some -> new ValueFacet("number", "number", some, 1000, FacetOrder.VALUE)),
        orNone(
            of(chosen, 14),
            some ->
                new DateFacet(
                    "days", "near", DateUnit.DAY, ZONE, intervals(List.of(some), 0), true)),
        orNone(of(chosen, 15), some -> together("names", "name", some)),
        new RowFacet(
            new ValueFacet("who", "visit.who", of(chosen, 16), 1000, FacetOrder.COUNT), false),
        new RowFacet(together("counts", "visit.count", of(chosen, 17)), false),
        new SplitFacet(
            new ValueFacet("split", "tag", of(chosen, 18), 50, FacetOrder.COUNT),
            new PathFacet("inner", "bed", "", List.of(), 1000)),
        new CellFacet("map", "place", 2, tiles(of(chosen, 19)), 1000),
        orNone(of(chosen, 20), some -> new CellFacet("near map", "place", 22, tiles(some), 1000)));
  }

  private static List<Area.Tile> tiles(List<Object> chosen) {
    return chosen.stream().map(tile -> Area.Tile.parse((String) tile)).toList();
  }

  private static ValueFacet together(String name, String field, List<Object> chosen) {
    return new ValueFacet(name, field, chosen, 1000, FacetOrder.COUNT, List.of(), "", true);
  }

  private static FacetRequest orNone(
      List<Object> chosen, Function<List<Object>, FacetRequest> values) {
    List<Object> some = chosen.stream().filter(value -> !value.equals(NONE)).toList();
    return new OrNoneFacet(values.apply(some), NONE, some.size() < chosen.size());
  }

  private static List<Object> of(List<List<Object>> chosen, int facet) {
    return chosen.isEmpty() ? List.of() : chosen.get(facet);
  }

  private static List<Interval> intervals(List<List<Object>> chosen, int facet) {
    return of(chosen, facet).stream().map(Interval.class::cast).toList();
  }

  private static Document document(String key, Random random, int most) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    fields.put(
        "name", several(random, most, () -> any(random, "Fern", "fern", "FERN", "Rosé", "rose")));
    fields.put("tag", several(random, most, () -> any(random, "a", "A", "b")));
    fields.put(
        "number",
        several(
            random,
            most,
            () -> any(random, Long.MIN_VALUE, Long.MAX_VALUE, Long.MAX_VALUE - 1, 0L, -1L, 7L)));
    fields.put(
        "price", several(random, most, () -> BigDecimal.valueOf(random.nextInt(400) - 50, 2)));
    fields.put(
        "day",
        several(
            random,
            most,
            () ->
                any(
                    random,
                    LocalDate.MIN,
                    LocalDate.MAX,
                    LocalDate.of(2026, 1, 1).plusDays(random.nextInt(40)))));
    fields.put(
        "seen",
        several(
            random,
            most,
            () ->
                any(
                    random,
                    Instant.parse("-290000-01-01T00:00:00Z"),
                    Instant.parse("+290000-12-31T23:59:59Z"),
                    Instant.parse("2026-10-25T00:00:00Z").plusSeconds(random.nextInt(20_000)))));
    fields.put(
        "near", several(random, most, () -> LocalDate.of(2026, 3, 28).plusDays(random.nextInt(9))));
    fields.put(
        "visit",
        several(
            random,
            most,
            () ->
                new GroupRow(
                    Map.of(
                        "who",
                        several(random, 3, () -> any(random, "Ann", "ANN", "Bea")),
                        "count",
                        several(random, 3, () -> (long) random.nextInt(3))))));
    if (random.nextInt(4) > 0) {
      fields.put(
          "place",
          List.of(
              new Place(
                  (double) any(random, -90.0, 90.0, 85.06, 0.0, random.nextDouble() * 180 - 90),
                  (double) any(random, -180.0, 180.0, 0.0, random.nextDouble() * 360 - 180))));
    }
    fields.put("bed", several(random, most, () -> any(random, "glass/a/1", "glass/b", "wall")));
    fields.values().removeIf(List::isEmpty);
    return new Document(key, fields, new byte[0], 1);
  }

  private static Object any(Random random, Object... of) {
    return of[random.nextInt(of.length)];
  }

  private static List<Object> several(Random random, int most, Supplier<Object> value) {
    return Stream.generate(value).limit(random.nextInt(most)).toList();
  }
}
