package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.assertj.core.api.InstanceOfAssertFactories;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.FoundRecords;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.TracedRecord;
import tools.jackson.databind.json.JsonMapper;

/** A garden of its own, searched over HTTP and compared with SQL. */
class GardenSearchTest {
  private static final String PUBLIC = "a.status IN ('planted', 'nursery')";

  private static final String LINK = "https://plants.quillmere.example/";

  @TempDir private static Path folder;
  private static Path garden;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, 1500);
    service = RunningService.start(folder);
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static SearchAnswer search(SearchQuery query) {
    return service.client.search("plant-search", query);
  }

  private static Map<String, Long> counts(SearchAnswer answer, String facet) {
    Map<String, Long> counts = new LinkedHashMap<>();
    answer.facets().get(facet).values().forEach(v -> counts.put(v.value(), v.count()));
    return counts;
  }

  private static Map<String, Long> sqlCounts(String sql) throws Exception {
    Map<String, Long> counts = new LinkedHashMap<>();
    for (List<@Nullable Object> row : GardenFiles.query(garden, sql)) {
      counts.put(String.valueOf(row.get(0)), ((Number) row.get(1)).longValue());
    }
    return counts;
  }

  @Test
  void facetCountsEqualGroupBy() throws Exception {
    SearchAnswer all = search(SearchQuery.words(""));
    assertThat(all.total().count())
        .isEqualTo(
            GardenFiles.query(garden, "SELECT count(*) FROM accession a WHERE " + PUBLIC)
                        .getFirst()
                        .getFirst()
                    instanceof Number n
                ? n.longValue()
                : -1);
    assertThat(counts(all, "family"))
        .isEqualTo(
            sqlCounts(
                "SELECT f.name, count(*) FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN"
                    + " family f ON f.id = t.family_id WHERE "
                    + PUBLIC
                    + " GROUP BY f.name ORDER BY 2 DESC, 1 LIMIT 8"));
    assertThat(counts(all, "flowering"))
        .isEqualTo(
            sqlCounts(
                "WITH RECURSIVE month(m) AS (SELECT 1 UNION ALL SELECT m + 1 FROM month WHERE m <"
                    + " 12) SELECT m, count(*) FROM month JOIN accession a ON ',' || a.flowering ||"
                    + " ',' LIKE '%,' || m || ',%' WHERE "
                    + PUBLIC
                    + " GROUP BY m ORDER BY m"));
    assertThat(counts(all, "labels"))
        .isEqualTo(
            sqlCounts(
                "SELECT l.title, count(*) FROM accession a JOIN accession_label al USING"
                    + " (accession_no) JOIN label l ON l.id = al.label_id WHERE "
                    + PUBLIC
                    + " GROUP BY l.title ORDER BY 2 DESC, 1 LIMIT 5"));
  }

  @Test
  void rowsPercentilesAndFacetsWithinFacetsEqualSql() throws Exception {
    SearchAnswer all = search(SearchQuery.words(""));
    assertThat(counts(all, "seen"))
        .isEqualTo(
            sqlCounts(
                "SELECT s.kind, count(DISTINCT a.accession_no) FROM accession a JOIN sighting s USING"
                    + " (accession_no) WHERE "
                    + PUBLIC
                    + " GROUP BY s.kind ORDER BY 2 DESC, 1"));
    for (SearchAnswer.FacetValue family : all.facets().get("family").values()) {
      Map<String, Long> genera = new LinkedHashMap<>();
      family.split().forEach(genus -> genera.put(genus.label(), genus.count()));
      assertThat(genera)
          .isEqualTo(
              sqlCounts(
                  "SELECT t.genus, count(*) FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN"
                      + " family f ON f.id = t.family_id WHERE "
                      + PUBLIC
                      + " AND f.name = '%s' GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT 6"
                          .formatted(family.value())));
    }
    List<List<@Nullable Object>> heights =
        GardenFiles.query(
            garden,
            "SELECT height_cm FROM accession a WHERE "
                + PUBLIC
                + " AND height_cm IS NOT NULL ORDER BY 1");
    assertThat(all.facets().get("tall").statistics().percentiles())
        .containsExactly(Map.entry("50", rank(heights, 50)), Map.entry("90", rank(heights, 90)));
    List<String> two =
        all.facets().get("collector").values().stream()
            .limit(2)
            .map(SearchAnswer.FacetValue::value)
            .toList();
    String by =
        " EXISTS (SELECT 1 FROM accession_person ap JOIN person p ON p.id = ap.person_id WHERE"
            + " ap.accession_no = a.accession_no AND ap.role IN ('collector', 'recorder')%s)";
    assertThat(
            search(
                    SearchQuery.words("")
                        .choose("collector", two.get(0))
                        .choose("collector", two.get(1)))
                .total()
                .count())
        .isEqualTo(
            count(
                by.formatted(" AND p.name = '" + two.get(0) + "'")
                    + " AND"
                    + by.formatted(" AND p.name = '" + two.get(1) + "'")));
    assertThat(search(SearchQuery.words("").choose("collector", "not known")).total().count())
        .isEqualTo(count(" NOT" + by.formatted("")));
  }

  @Test
  void groupsAndWhatIsSimilar() throws Exception {
    SearchAnswer answer = search(SearchQuery.words("").group("family").page(1, 100));
    Map<String, Long> families = new LinkedHashMap<>();
    answer.results().forEach(r -> families.put(r.group().value(), r.group().count()));
    assertThat(families)
        .hasSize(Math.toIntExact(answer.groups()))
        .containsExactlyInAnyOrderEntriesOf(
            sqlCounts(
                "SELECT f.name, count(*) FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN"
                    + " family f ON f.id = t.family_id WHERE "
                    + PUBLIC
                    + " GROUP BY f.name"));
    assertThat(answer.results())
        .allSatisfy(
            best ->
                assertThat(best.group().results())
                    .hasSizeLessThan(3)
                    .allMatch(other -> other.fields().get("family").equals(best.group().value()))
                    .allMatch(other -> other.score() <= best.score()));

    SearchAnswer.Result fern = search(SearchQuery.words("fern")).results().getFirst();
    SearchAnswer similar = search(SearchQuery.words("").similarTo(fern.key()));
    assertThat(similar.results())
        .isNotEmpty()
        .noneMatch(result -> result.key().equals(fern.key()))
        .anyMatch(result -> result.fields().get("family").equals(fern.fields().get("family")));
    String hidden =
        String.valueOf(
            GardenFiles.query(
                    garden, "SELECT accession_no FROM accession WHERE status = 'embargoed' LIMIT 1")
                .getFirst()
                .getFirst());
    assertThat(service.get("/search/plant-search?similar_to=" + hidden).statusCode())
        .as("what the endpoint never shows is not compared with, either")
        .isEqualTo(404);
    assertThat(service.get("/searches").body()).contains("there is nothing under this address");
    assertThat(service.get("/search/plant-search?group=famly").body())
        .contains("unknown-group", "family");
  }

  @Test
  void aCardNamesAResultAndLeadsToIt() throws Exception {
    SearchAnswer answer = search(SearchQuery.words("fern"));
    assertThat(answer.card()).isEqualTo(new SearchAnswer.Card("name", "latin_name", null));
    assertThat(answer.results())
        .isNotEmpty()
        .allSatisfy(result -> assertThat(result.link()).isEqualTo(LINK + result.key()));
  }

  @Test
  void recordsAreFoundByTheirKeysInTheirOrder() throws Exception {
    String hidden =
        String.valueOf(
            GardenFiles.query(
                    garden, "SELECT accession_no FROM accession a WHERE NOT " + PUBLIC + " LIMIT 1")
                .getFirst()
                .getFirst());
    List<String> keys = List.of(anyPublic(9), hidden, anyPublic(4), "none", anyPublic(9));
    FoundRecords found = service.client.records("plant-search", keys);
    assertThat(found.results())
        .extracting(SearchAnswer.Result::key)
        .containsExactly(keys.get(0), keys.get(2));
    assertThat(found.missing()).containsExactly(hidden, "none");
    assertThat(service.client.records("plant-search", List.of("a,b")).missing())
        .containsExactly("a,b");
    SearchAnswer.Result one =
        JsonMapper.shared()
            .readValue(
                service.get("/search/plant-search/records/" + keys.get(2)).body(),
                SearchAnswer.Result.class);
    assertThat(one.fields())
        .isEqualTo(
            search(SearchQuery.words("").where("number = '" + one.key() + "'"))
                .results()
                .getFirst()
                .fields());
    assertThat(one.link()).isEqualTo(found.results().getLast().link()).startsWith(LINK);
    assertThat(service.get("/search/plant-search/records/" + hidden).statusCode()).isEqualTo(404);
  }

  @Test
  void theRowsThatMatchedAreTold() throws Exception {
    SearchAnswer answer =
        search(
            SearchQuery.words("")
                .where("EXISTS (seen WHERE kind = 'pest' AND seen_on >= DATE '2024-01-01')"));
    assertThat(answer.results()).isNotEmpty();
    for (SearchAnswer.Result result : answer.results()) {
      assertThat(result.rows().get("seen"))
          .hasSize(
              Math.toIntExact(
                  count(
                      "sighting s JOIN accession a USING (accession_no)",
                      " accession_no = '%s' AND s.kind = 'pest' AND s.seen_on >= '2024-01-01'"
                          .formatted(result.key()))))
          .allSatisfy(
              row ->
                  assertThat(row)
                      .asInstanceOf(InstanceOfAssertFactories.MAP)
                      .containsEntry("kind", "pest"));
    }
    assertThat(search(SearchQuery.words("")).results().getFirst().rows()).isNull();
    SearchAnswer byWords =
        search(
            SearchQuery.words("")
                .where("EXISTS (seen WHERE kind <> 'pest' AND MATCHES(text, 'aphid*'))"));
    assertThat(byWords.total().count())
        .as("words and values of one and the same row")
        .isEqualTo(
            count(
                " "
                    + PUBLIC
                    + " AND EXISTS (SELECT 1 FROM sighting s WHERE s.accession_no = a.accession_no"
                    + " AND s.kind <> 'pest' AND lower(s.text) LIKE '%aphid%')"))
        .isPositive();
    assertThat(byWords.results().getFirst().rows().get("seen").toString()).contains("phid");
    assertThat(
            service
                .client
                .record("plants", byWords.results().getFirst().key())
                .fields()
                .get("seen")
                .getFirst())
        .as("a row as the search shows it")
        .asInstanceOf(InstanceOfAssertFactories.MAP)
        .containsKeys("kind", "text");
  }

  private static String rank(List<List<@Nullable Object>> sorted, int percent) {
    return String.valueOf(
        sorted.get((int) Math.ceil(percent / 100.0 * sorted.size()) - 1).getFirst());
  }

  private static long count(String condition) throws Exception {
    return count("accession a", condition);
  }

  private static long count(String from, String condition) throws Exception {
    return ((Number)
            GardenFiles.query(
                    garden,
                    "SELECT count(*) FROM %s WHERE %s AND%s".formatted(from, PUBLIC, condition))
                .getFirst()
                .getFirst())
        .longValue();
  }

  @Test
  void aChosenFacetNarrowsAllOthersButNotItself() throws Exception {
    SearchAnswer answer =
        search(
            SearchQuery.words("")
                .choose("family", "Rosaceae")
                .choose("family", "Ericaceae")
                .choose("height", "30..100"));
    String joined =
        " FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN family f ON f.id = t.family_id"
            + " LEFT JOIN bed b ON b.code = a.bed_code WHERE "
            + PUBLIC;
    String families = " AND f.name IN ('Rosaceae', 'Ericaceae')";
    String heights = " AND a.height_cm >= 30 AND a.height_cm < 100";
    Map<String, Long> ownFacet =
        sqlCounts(
            "SELECT f.name, count(*)" + joined + heights + " GROUP BY f.name ORDER BY 2 DESC, 1");
    counts(answer, "family")
        .forEach((family, count) -> assertThat(count).as(family).isEqualTo(ownFacet.get(family)));
    assertThat(counts(answer, "bed"))
        .isEqualTo(
            sqlCounts(
                "SELECT b.title, count(*)"
                    + joined
                    + families
                    + heights
                    + " AND b.title IS NOT NULL GROUP BY b.title ORDER BY 2 DESC, 1 LIMIT 6"));
    assertThat(counts(answer, "height"))
        .containsEntry(
            "..30",
            sqlCounts("SELECT 1, count(*)" + joined + families + " AND a.height_cm < 30").get("1"));
    assertThat(answer.chosen())
        .extracting(SearchAnswer.Chosen::remove)
        .contains("?family=Rosaceae&family=Ericaceae");
    assertThat(answer.chosen()).hasSize(3);
  }

  @Test
  void valuesOfAFacetAreFoundByTheBeginningOfAWord() throws Exception {
    HttpResponse<String> response =
        service.get("/search/plant-search/facets/bed?begins=G&family=Rosaceae&bed=nowhere");
    assertThat(response.statusCode()).isEqualTo(200);
    Map<String, Long> found = new LinkedHashMap<>();
    JsonMapper.shared()
        .readTree(response.body())
        .get("values")
        .forEach(v -> found.put(v.get("value").asString(), v.get("count").asLong()));
    Map<String, Long> expected =
        sqlCounts(
            "SELECT b.title, count(*) FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN"
                + " family f ON f.id = t.family_id JOIN bed b ON b.code = a.bed_code WHERE "
                + PUBLIC
                + " AND f.name = 'Rosaceae' AND (b.title LIKE 'g%' OR b.title LIKE '% g%')"
                + " GROUP BY b.title ORDER BY 2 DESC, 1 LIMIT 6");
    assertThat(expected).isNotEmpty();
    assertThat(found).containsAllEntriesOf(expected);
    assertThat(found.keySet()).allMatch(v -> expected.containsKey(v) || v.equals("nowhere"));
  }

  @Test
  void aFilterOfACallerCannotLiftTheForcedOne() throws Exception {
    SearchAnswer answer =
        search(SearchQuery.words("").where("status = 'embargoed' OR status <> 'planted'"));
    assertThat(answer.total().count())
        .isEqualTo(
            sqlCounts("SELECT 1, count(*) FROM accession WHERE status = 'nursery'").get("1"));
    assertThat(search(SearchQuery.words("").where("status = 'embargoed'")).total().count())
        .isZero();
  }

  @Test
  void changesOfEveryKindAreFoundByTheirNewWords() throws Exception {
    String key = anyPublic(3);
    awaitFound("phosphorescent", 0);
    GardenFiles.run(
        garden,
        "UPDATE accession SET notes = '<p>Phosphorescent &amp; <b>odd</b></p>' WHERE accession_no"
            + " = ?",
        key);
    SearchAnswer answer = awaitFound("phosphorescent", 1);
    assertThat(answer.results().getFirst().key()).isEqualTo(key);
    assertThat(answer.results().getFirst().highlights().get("notes"))
        .containsExactly("<mark>Phosphorescent</mark> &amp; odd");
    assertThat(answer.asOf().position()).isNotBlank();
    assertThat(Instant.parse(String.valueOf(answer.asOf().time()))).isBefore(Instant.now());

    Object taxon =
        GardenFiles.query(garden, "SELECT taxon_id FROM accession WHERE accession_no = ?", key)
            .getFirst()
            .getFirst();
    GardenFiles.run(garden, "UPDATE taxon SET name_en = 'Zanzibarian fern' WHERE id = ?", taxon);
    long ofTaxon =
        ((Number)
                GardenFiles.query(
                        garden,
                        "SELECT count(*) FROM accession a WHERE taxon_id = ? AND " + PUBLIC,
                        taxon)
                    .getFirst()
                    .getFirst())
            .longValue();
    awaitFound("zanzibarian", ofTaxon);

    GardenFiles.run(
        garden,
        "INSERT INTO sighting (accession_no, seen_on, observer, kind, text) VALUES (?,"
            + " '2026-01-02', 'Ada Birch', 'pest', 'Wombat tracks')",
        key);
    awaitFound("wombats", 1);
    GardenFiles.run(garden, "DELETE FROM sighting WHERE text = 'Wombat tracks'");
    awaitFound("wombats", 0);

    GardenFiles.run(garden, "UPDATE accession SET status = 'lost' WHERE accession_no = ?", key);
    awaitFound("phosphorescent", 0);
    TracedRecord gone = service.client.record("plants", key);
    assertThat(gone.stored()).isNull();
    assertThat(gone.agrees()).isTrue();
    GardenFiles.run(garden, "UPDATE accession SET status = 'planted' WHERE accession_no = ?", key);
    awaitFound("phosphorescent", 1);
    GardenFiles.run(garden, "DELETE FROM accession WHERE accession_no = ?", key);
    awaitFound("phosphorescent", 0);
  }

  @Test
  void neverColumnsAreNowhere() throws Exception {
    String key = anyPublic(11);
    TracedRecord record = service.client.record("plants", key);
    assertThat(record.agrees()).isTrue();
    assertThat(record.toString()).doesNotContain("quillmere.example").doesNotContain("+44 1632");
    RunningService.await(() -> noFileHas("quillmere.example"));
    assertThat(service.log()).doesNotContain("quillmere.example");
  }

  /** False if a merge took a file away meanwhile, so that not all of them were looked at. */
  private static boolean noFileHas(String text) {
    try (Stream<Path> files = Files.walk(folder.resolve("mnemex-data/indexes"))) {
      for (Path file : files.filter(Files::isRegularFile).toList()) {
        assertThat(Files.readString(file, StandardCharsets.ISO_8859_1)).doesNotContain(text);
      }
      return true;
    } catch (IOException | UncheckedIOException e) {
      return false;
    }
  }

  @Test
  void sortsAndPagesAreStable() throws Exception {
    List<String> expected =
        GardenFiles.query(
                garden,
                "SELECT accession_no FROM accession a WHERE "
                    + PUBLIC
                    + " ORDER BY height_cm IS NULL, height_cm DESC, planted_on IS NULL, planted_on DESC,"
                    + " visitor_interest DESC, accession_no"
                    + " LIMIT 60")
            .stream()
            .map(row -> String.valueOf(row.getFirst()))
            .toList();
    for (int page = 1; page <= 3; page++) {
      SearchAnswer answer = search(SearchQuery.words("").sort("tallest").page(page, 20));
      assertThat(answer.results())
          .extracting(SearchAnswer.Result::key)
          .containsExactlyElementsOf(expected.subList(20 * page - 20, 20 * page));
    }
    SearchAnswer nearest =
        search(SearchQuery.words("").sort("nearest").near("51.205,-0.31").page(1, 20));
    assertThat(nearest.results())
        .extracting(result -> result.distances().get("bed_place"))
        .isSorted()
        .allMatch(metres -> metres >= 0 && metres < 10_000);
  }

  private static String anyPublic(int offset) throws Exception {
    return String.valueOf(
        GardenFiles.query(
                garden,
                "SELECT accession_no FROM accession a WHERE "
                    + PUBLIC
                    + " AND planted_on IS NOT NULL ORDER BY accession_no LIMIT 1 OFFSET "
                    + offset)
            .getFirst()
            .getFirst());
  }

  private static SearchAnswer awaitFound(String words, long count) {
    SearchAnswer[] last = new SearchAnswer[1];
    RunningService.await(
        () -> {
          last[0] = search(SearchQuery.words(words));
          return last[0].total().count() == count;
        });
    return last[0];
  }
}
