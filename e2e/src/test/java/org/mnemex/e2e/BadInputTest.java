package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.ProblemException;
import org.mnemex.client.QuarantinedRecord;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.TracedRecord;

/** What is refused or set aside, and whether the answer says where and why. */
class BadInputTest {
  @TempDir private static Path folder;
  private static Path garden;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, 100);
    service = RunningService.start(folder);
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          /search/plant-serch                | 404 | unknown-endpoint  | plant-search
          /search/plant-search?famly=x       | 400 | unknown-parameter | family
          /search/plant-search?sort=newst    | 400 | unknown-sort      | newest
          /search/plant-search?page=0        | 400 | bad-page          |
          /search/plant-search?size=5000     | 400 | bad-size          |
          /search/plant-search?page=5000     | 400 | too-deep          |
          /search/plant-search?height=tall   | 400 | bad-facet-value   |
          /search/plant-search?q=a&q=b       | 400 | repeated-parameter|
          /search/plant-search/facets/bd     | 404 | unknown-facet     | bed
          /search/plant-search/facets/height | 400 | bad-facet         |
          /api/indexes/plant                 | 404 | unknown-index     | plants
          """)
  void errorsAreProblemDocuments(String path, int status, String type, @Nullable String suggestion)
      throws Exception {
    HttpResponse<String> response = service.get(path);
    assertThat(response.statusCode()).isEqualTo(status);
    assertThat(response.headers().firstValue("Content-Type").orElse(""))
        .startsWith("application/problem+json");
    assertThat(response.body()).contains("/problems/" + type);
    if (suggestion != null) {
      assertThat(response.body()).contains("\"suggestion\":\"" + suggestion + "\"");
    }
  }

  @Test
  void aBadFilterSaysWhere() {
    assertThatThrownBy(
            () -> service.client.search("plant-search", SearchQuery.words("").where("famly = 'x'")))
        .isInstanceOf(ProblemException.class)
        .hasMessage("line 1, column 1: unknown field 'famly'; did you mean 'family'?");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          weight: 5, uses       | wieght: 5, uses      | plants.yaml:26:68: fields.name.wieght: unknown key 'wieght' (weight)
          root: accession       | root: accesion       | plants.yaml:5:9: record.root: there is no table 'accesion' (accession)
          from: family.name     | from: family.nam     | plants.yaml:32:22: fields.family.from: table 'family' has no column 'nam' (name)
          analyser: botanical   | analyser: botanicl   | plants.yaml:28:62: fields.latin_name.analyser
          from: bed.title       | from: beds.title     | plants.yaml:36:22: fields.bed.from: there is no join 'beds' (bed)
          substr(CAST(acc       | sustr(CAST(acc       | plants.yaml:42:24: fields.planted_month.sql: the database refuses this
          [person.email         | [person.mail         | plants.yaml:23:8: never: table 'person' has no column 'mail' (email)
          fields:               | fields: {            | this is not valid YAML
          sheets:    {table     | status:    {table    | record.join.status: a join needs another name than table 'accession' and its columns
          source: garden        | source: gardn        | plants.yaml:3:9: source: there is no source 'gardn' (garden)
          """)
  void badDefinitionsAreRefusedWithTheirPlace(String good, String bad, String expected) {
    Map<String, String> files = new LinkedHashMap<>(GardenFiles.definitions());
    files.compute("plants.yaml", (name, text) -> text.replace(good, bad));
    IndexStatus before = service.client.indexes().getFirst();
    assertThatThrownBy(() -> service.client.apply(files))
        .isInstanceOfSatisfying(
            ProblemException.class,
            e -> {
              var place = e.problem().problems().getFirst();
              String said =
                  "%s:%d:%d: %s: %s (%s)"
                      .formatted(
                          place.file(),
                          place.line(),
                          place.column(),
                          place.key(),
                          place.detail(),
                          place.suggestion());
              assertThat(said).contains(expected);
            });
    IndexStatus after = service.client.indexes().getFirst();
    assertThat(after.version()).isEqualTo(before.version());
    assertThat(after.next()).isNull();
  }

  @Test
  void foreignPagesAndNamesAreRefused() throws Exception {
    assertThat(
            service
                .post("/api/definitions", "{\"files\":[]}", "Origin", "https://evil.example")
                .statusCode())
        .isEqualTo(403);
    HttpResponse<String> page = service.get("/");
    assertThat(page.headers().firstValue("Content-Security-Policy")).isPresent();
    assertThat(service.get("/api/openapi.json").body()).contains("\"/search/{endpoint}\"");
    assertThat(service.get("/api/health-and-metrics/health").body()).contains("UP");
  }

  @Test
  void aRecordThatCannotBeMappedWaitsInQuarantineAndComesBack() throws Exception {
    String key = "QB-00007";
    GardenFiles.run(
        garden, "UPDATE accession SET planted_on = 'last spring' WHERE accession_no = ?", key);
    RunningService.await(() -> service.client.record("plants", key).quarantine() != null);
    TracedRecord waiting = service.client.record("plants", key);
    assertThat(waiting.quarantine())
        .isEqualTo("field 'planted_on': 'last spring' is not a date like 2026-05-04");
    assertThat(waiting.stored()).isNull();
    assertThat(service.client.indexes().getFirst().live().quarantined()).isEqualTo(1);
    assertThat(service.client.retryQuarantine("plants", null)).isEqualTo(1);
    assertThat(service.client.quarantine("plants"))
        .extracting(QuarantinedRecord::recordKey)
        .containsExactly(key);
    GardenFiles.run(
        garden, "UPDATE accession SET planted_on = '2020-03-04' WHERE accession_no = ?", key);
    RunningService.await(() -> service.client.record("plants", key).quarantine() == null);
    assertThat(service.client.record("plants", key).agrees()).isTrue();
  }
}
