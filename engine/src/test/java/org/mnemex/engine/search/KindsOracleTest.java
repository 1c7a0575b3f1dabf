package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mnemex.engine.search.KindsData.SCHEMA;
import static org.mnemex.engine.search.KindsData.ZONE;

import java.io.IOException;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.junit.jupiter.api.AfterEach;
import org.mnemex.engine.ApartShards;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.DateFacet;
import org.mnemex.engine.facet.DateUnit;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.HistogramFacet;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.facet.PathFacet;
import org.mnemex.engine.facet.RowFacet;
import org.mnemex.engine.facet.StatisticsFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Paths;
import org.mnemex.engine.schema.Place;

/** Every kind of field, query and facet, compared with scans of plain documents. */
class KindsOracleTest {
  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 60)
  void everythingEqualsAScan(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    Map<String, Document> truth = new TreeMap<>();
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = random.nextInt(400); i > 0; i--) {
        String key = "QB-" + random.nextInt(200);
        if (random.nextInt(6) == 0) {
          edition.delete(key);
          truth.remove(key);
        } else {
          Document document = KindsData.document(key, random);
          edition.put(document);
          truth.put(key, document);
        }
        if (random.nextInt(60) == 0) {
          edition.refresh(Checkpoint.NONE);
          edition.mergeStep();
        }
      }
      edition.refresh(Checkpoint.NONE);
      if (random.nextBoolean()) {
        edition.compact(bytes -> {});
      }
      for (int i = 0; i < 10; i++) {
        KindsQueries.queries(random, truth, edition);
      }
      facets(truth, edition);
      sorts(random, truth, edition);
      stored(truth, edition);
      KindsQueries.words(random, truth, edition);
    }
  }

  private static void facets(Map<String, Document> truth, EditionFolder edition) {
    List<FacetRequest> requests =
        List.of(
            new DateFacet("months", "planted", DateUnit.MONTH, ZONE, List.of()),
            new DateFacet("days", "seen", DateUnit.DAY, ZONE, List.of()),
            new HistogramFacet("prices", "price", new BigDecimal("0.50"), List.of()),
            new PathFacet("beds", "bed", "glass", List.of(), 100),
            new StatisticsFacet("told", "price", List.of(25.0, 100.0)),
            new ValueFacet("price", "price", List.of(), 1000, FacetOrder.VALUE),
            new RowFacet(
                new ValueFacet("rows", "sightings.kind", List.of(), 9, FacetOrder.VALUE), true));
    SearchResult result =
        ApartShards.search(
            edition,
            new SearchRequest(
                new Query.Everything(),
                new Query.Everything(),
                null,
                0,
                0,
                requests,
                Set.of(),
                List.of()));
    Map<String, Long> months = new HashMap<>();
    Map<String, Long> days = new HashMap<>();
    Map<String, Long> prices = new HashMap<>();
    Map<String, Long> beds = new HashMap<>();
    Map<Object, Long> single = new HashMap<>();
    for (Document d : truth.values()) {
      count(months, KindsData.values(d, "planted").map(v -> v.toString().substring(0, 7)));
      count(
          days,
          KindsData.values(d, "seen")
              .map(v -> ((Instant) v).atZone(ZONE).toLocalDate().toString()));
      count(
          prices,
          KindsData.values(d, "price")
              .map(v -> Math.floorDiv(((BigDecimal) v).unscaledValue().longValue(), 50L) * 50)
              .map(from -> BigDecimal.valueOf(from, 2) + ".." + BigDecimal.valueOf(from + 50, 2)));
      count(
          beds,
          KindsData.values(d, "bed")
              .flatMap(v -> Paths.withAncestors((String) v).stream())
              .filter(p -> Paths.depth(p) == 2));
      count(single, KindsData.values(d, "price"));
    }
    assertThat(texts(result.facets().get(0))).isEqualTo(months);
    assertThat(texts(result.facets().get(1))).isEqualTo(days);
    assertThat(texts(result.facets().get(2))).isEqualTo(prices);
    assertThat(texts(result.facets().get(3))).isEqualTo(beds);
    Map<Object, Long> rows = new HashMap<>();
    result.facets().get(6).values().forEach(v -> rows.put(v.value(), v.count()));
    assertThat(rows)
        .isEqualTo(
            truth.values().stream()
                .flatMap(d -> KindsData.values(d, "sightings"))
                .flatMap(row -> ((GroupRow) row).fields().getOrDefault("kind", List.of()).stream())
                .collect(Collectors.groupingBy(kind -> kind, Collectors.counting())));
    Map<Object, Long> found = new HashMap<>();
    result.facets().get(5).values().forEach(v -> found.put(v.value(), v.count()));
    assertThat(found).isEqualTo(single);
    List<BigDecimal> all =
        truth.values().stream()
            .flatMap(d -> KindsData.values(d, "price"))
            .map(BigDecimal.class::cast)
            .toList();
    FacetResult.Summary told = result.facets().get(4).statistics();
    if (all.isEmpty()) {
      assertThat(told).isNull();
    } else {
      assertThat(told.count()).isEqualTo(all.size());
      assertThat(told.least()).isEqualTo(all.stream().min(BigDecimal::compareTo).orElseThrow());
      assertThat(told.greatest()).isEqualTo(all.stream().max(BigDecimal::compareTo).orElseThrow());
      List<BigDecimal> sorted = all.stream().sorted().toList();
      assertThat(told.percentiles())
          .containsEntry(25.0, sorted.get((sorted.size() + 3) / 4 - 1))
          .containsEntry(100.0, sorted.getLast());
      assertThat(told.sum())
          .isEqualTo(all.stream().reduce(BigDecimal.ZERO.setScale(2), BigDecimal::add));
    }
  }

  private static <T> void count(Map<T, Long> counts, Stream<? extends T> values) {
    values.distinct().forEach(value -> counts.merge(value, 1L, Long::sum));
  }

  private static Map<String, Long> texts(FacetResult facet) {
    Map<String, Long> counts = new HashMap<>();
    for (FacetResult.Value value : facet.values()) {
      String text =
          value.value() instanceof Interval interval ? interval.text() : value.value().toString();
      counts.put(text, value.count());
    }
    return counts;
  }

  private static void sorts(Random random, Map<String, Document> truth, EditionFolder edition) {
    Place from = new Place(51.4, 0.3);
    SearchRequest nearest =
        new SearchRequest(
            new Query.Everything(),
            new Query.Everything(),
            new SearchRequest.Sort("place", false, from),
            0,
            1000,
            List.of(),
            Set.of(),
            List.of());
    List<String> expected =
        truth.values().stream()
            .sorted(
                Comparator.<Document>comparingDouble(
                        d ->
                            KindsData.values(d, "place")
                                .map(Place.class::cast)
                                .mapToDouble(p -> from.metresTo(p.latitude(), p.longitude()))
                                .findFirst()
                                .orElse(Double.MAX_VALUE))
                    .thenComparing(Document::key))
            .map(Document::key)
            .toList();
    assertThat(keys(ApartShards.search(edition, nearest))).isEqualTo(expected);
    for (String field : List.of("price", "seen", "place")) {
      SearchRequest all =
          new SearchRequest(
              new Query.Everything(),
              new Query.Everything(),
              new SearchRequest.Sort(
                  field, random.nextBoolean(), field.equals("place") ? from : null),
              0,
              1000,
              List.of(),
              Set.of(),
              List.of());
      List<String> whole = keys(ApartShards.search(edition, all));
      List<String> paged = new ArrayList<>();
      SearchRequest.Cursor after = null;
      do {
        SearchRequest page =
            new SearchRequest(
                    all.query(), all.filter(), null, 0, 17, List.of(), Set.of(), List.of())
                .sortedBy(all.sorts())
                .after(after);
        List<SearchResult.Hit> hits = ApartShards.search(edition, page).hits();
        hits.forEach(hit -> paged.add(hit.key()));
        after = hits.isEmpty() ? null : hits.getLast().cursor();
      } while (after != null);
      assertThat(paged).as(field).isEqualTo(whole);
    }
  }

  private static List<String> keys(SearchResult result) {
    return result.hits().stream().map(SearchResult.Hit::key).toList();
  }

  private static void stored(Map<String, Document> truth, EditionFolder edition) {
    for (Document d : truth.values()) {
      Map<String, List<Object>> fields = edition.snapshot().document(d.key()).fields();
      assertThat(fields.get("sightings")).isEqualTo(d.fields().get("sightings"));
      assertThat(fields.get("place")).isEqualTo(d.fields().get("place"));
      assertThat(fields.get("bed")).isEqualTo(d.fields().get("bed"));
    }
  }
}
