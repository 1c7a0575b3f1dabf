package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.client.Applied;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.PlannedChanges;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.TriedAnalyser;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** What is said of changes before they are applied. */
class PlanTest {
  private static final ObjectMapper JSON = JsonMapper.shared();

  @TempDir private static Path shared;
  private static RunningService planned;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(shared, 300);
    planned = RunningService.start(shared);
    planned.applyGarden();
  }

  @AfterAll
  static void stop() throws Exception {
    planned.close();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          weight: 8                      | weight: 9                      | at once       | fields.number.weight
          title: Genus                   | title: Genera                  | at once       | fields.genus.title
          source: garden                 | source: garden\\ngrace: 2h     | at once       | grace
          source: garden                 | source: garden\\nfreshest: 5s  | at once      | freshest
          analyser: botanical, weight: 4 | analyser: botanical, query_analyser: english, weight: 4 | at once | fields.latin_name.query_analyser
          analyser: french               | analyser: german               | from stored   | fields.name_fr.analyser
          filters: [lowercase, fold]     | filters: [lowercase]           | from stored   | fields.latin_name.analyser
          height_cm, type: integer       | height_cm, type: decimal       | from stored   | fields.height_cm.type
          uses: [facet, filter], title: T| uses: [facet, filter, show], title: T | from stored | fields.taxonomy.uses
          clean: [strip_html, squeeze]   | clean: [strip_html]            | from stored   | fields.notes.clean
          observer: {type: exact}        | observer: {type: exact, fold: true} | from stored | fields.seen.fields.observer.fold
          {type: text, analyser: garden-notes} | {type: text, analyser: french} | from stored | fields.seen.fields.text.analyser
          {type: text, analyser: garden-notes} | {type: text, analyser: garden-notes, query_analyser: french} | at once | fields.seen.fields.text.query_analyser
          \\nfields:\\n                   | \\nfields:\\n  code: {from: bed.code, type: exact}\\n | from stored | fields.code
          {from: taxon.name_de,          | {from: taxon.name_en,          | from stored   | fields.name_de.from
          status <> 'lost'               | status <> 'gone'               | from database | record.only
          CHAR(10)), 1, 7)               | CHAR(10)), 1, 4)               | from database | fields.planted_month.sql
          limit: 200                     | limit: 100                     | from database | record.join.sightings
          [person.email,                 | [person.email, taxon.name_ja,  | from database | never.taxon.name_ja
          , extract: true, optional: true| , extract: true                | from database | fields.sheet_texts.extract
          """)
  void aPlanSaysWhatEachChangeTakesAndWhy(String good, String other, String cost, String path)
      throws IOException {
    String find = good.replace("\\n", "\n");
    String put = other.replace("\\n", "\n");
    Map<String, String> files = GardenFiles.replaced(find, put);
    if (put.contains("name_ja")) {
      GardenFiles.removeJapanese(files);
    }
    IndexStatus before = planned.client.indexes().getFirst();
    PlannedChanges plan = planned.client.plan(files);
    assertThat(plan.cost()).isEqualTo(cost);
    PlannedChanges.PlannedChange index =
        plan.changes().stream().filter(c -> c.kind().equals("index")).findFirst().orElseThrow();
    assertThat(index.cost()).isEqualTo(cost);
    assertThat(index.differences())
        .anySatisfy(
            difference -> {
              assertThat(difference.path()).isEqualTo(path);
              assertThat(difference.cost()).isEqualTo(cost);
              assertThat(difference.reason()).isNotBlank();
            });
    if (cost.equals("at once")) {
      assertThat(index.estimate()).isNull();
    } else {
      assertThat(index.estimate().records()).isEqualTo(before.live().documents());
      assertThat(index.estimate().databaseReads())
          .isEqualTo(cost.equals("from stored") ? 0 : before.live().documents());
    }
    assertThat(planned.client.indexes().getFirst().version()).isEqualTo(before.version());
    assertThat(planned.client.indexes().getFirst().next()).isNull();
  }

  @Test
  void whatLooksLikeAMistakeIsSaidBeforeItIsDone() throws IOException {
    assertThat(planned.client.plan(GardenFiles.definitions()).changes()).isEmpty();
    Map<String, String> files =
        new LinkedHashMap<>(
            GardenFiles.replaced(
                "taxon.name_en, type: exact, fold: true,", "taxon.name_en, type: integer,"));
    // Numbers have no order of a language.
    files.put(
        "plant-search.yaml",
        GardenFiles.definitions()
            .get("plant-search.yaml")
            .replace("{by: name_sort, language: en}", "name_sort"));
    PlannedChanges wrongType = planned.client.plan(files);
    assertThat(wrongType.warnings())
        .anySatisfy(
            warning -> {
              assertThat(warning.about()).isEqualTo("index plants");
              assertThat(warning.detail())
                  .contains("sampled records would go to quarantine", "is not a whole number");
            });
    PlannedChanges unused =
        planned.client.plan(
            Map.of("new.yaml", "analyser: lonely\ntokeniser: words\nfilters: [lowercase]\n"));
    assertThat(unused.warnings())
        .extracting(PlannedChanges.Warning::about)
        .containsExactly("analyser lonely");
  }

  @Test
  void anAnalyserIsTriedOnWhatAFieldHoldsBeforeItIsApplied() {
    planned.client.search("plant-search", SearchQuery.words("climbing roses"));
    TriedAnalyser words = planned.client.tryAnalyser("plants", "name", "words");
    assertThat(words.documents().looked())
        .isEqualTo((int) planned.client.index("plants").live().documents());
    assertThat(words.documents().touched()).isBetween(1, words.documents().looked());
    assertThat(words.queries())
        .contains(
            new TriedAnalyser.TouchedQuery(
                "climbing roses", List.of("climb", "rose"), List.of("climbing", "roses")));
    TriedAnalyser same =
        planned.client.tryDefinition(
            "plants", "latin_name", "analyser: mine\ntokeniser: words\nfilters: [lowercase, fold]");
    assertThat(same.documents().touched()).isZero();
    assertThat(same.documents().goes()).isEmpty();
    assertThatThrownBy(() -> planned.client.tryAnalyser("plants", "nam", "words"))
        .hasMessageContaining("no text field 'nam'");
  }

  @Test
  void aDefinitionIsCheckedAndTriedOnARecordAsItIsTyped() throws Exception {
    assertThat(posted("/api/check", GardenFiles.replaced("weight: 8", "weight: 9")).at("/problems"))
        .isEmpty();
    JsonNode wrong =
        posted("/api/check", GardenFiles.replaced("analyser: french", "analyser: frensh"))
            .at("/problems/0");
    assertThat(wrong.at("/suggestion").asString()).isEqualTo("french");
    assertThat(wrong.at("/line").asInt()).isPositive();
    JsonNode record =
        posted(
            "/api/preview",
            GardenFiles.replaced("clean: [{split: \",\"}], type: integer", "type: exact"));
    assertThat(record.at("/key").asString()).isEqualTo("QB-00001");
    assertThat(record.at("/record/columns/accession_no").asString()).isEqualTo("QB-00001");
    assertThat(record.at("/tokens/latin_name")).isNotEmpty();
    assertThat(record.at("/fields/flowering/0").isString()).isTrue();
    assertThat(record.at("/record").toString()).doesNotContain("email");
    JsonNode unfit =
        posted(
            "/api/preview",
            GardenFiles.replaced(
                "from: taxon.genus, type: exact", "from: taxon.genus, type: integer"));
    assertThat(unfit.at("/problem").asString()).contains("genus");
    assertThat(unfit.at("/record/columns/accession_no").asString()).isEqualTo("QB-00001");
  }

  private static JsonNode posted(String path, Map<String, String> files) throws Exception {
    List<Map<String, String>> list =
        files.entrySet().stream()
            .map(file -> Map.of("name", file.getKey(), "text", file.getValue()))
            .toList();
    Map<String, Object> body = new LinkedHashMap<>(Map.of("files", list));
    if (path.equals("/api/preview")) {
      body.put("index", "plants");
    }
    return JSON.readTree(planned.post(path, JSON.writeValueAsString(body)).body());
  }

  @Test
  void applyingTheSameAgainChangesNothing() {
    assertThat(planned.client.apply(GardenFiles.definitions()))
        .extracting(Applied::change)
        .containsOnly("same");
  }
}
