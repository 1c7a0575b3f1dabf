package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.client.Applied;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.ComparedEditions;
import org.mnemex.client.DefinitionEntry;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.PlannedChanges;
import org.mnemex.client.ProblemException;
import org.mnemex.client.ScoreEntry;
import org.mnemex.client.Scored;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.TriedAnalyser;
import org.mnemex.client.VersionsCompared;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** Plans, editions, promotion and going back, as a developer does it. */
@TestMethodOrder(MethodOrderer.MethodName.class)
class EditionsTest {
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final ApplyOptions HOLD = new ApplyOptions(false, null, true);

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

  private static Map<String, String> edited(String good, String other) throws IOException {
    String file =
        GardenFiles.definitions().get("plants.yaml").contains(good)
            ? "plants.yaml"
            : "analysers.yaml";
    return GardenFiles.edited(file, text -> text.replace(good, other));
  }

  private static void withoutJapanese(Map<String, String> files) {
    files.compute("plants.yaml", (name, text) -> text.replaceAll("(?m)^  name_ja:.*\n", ""));
    files.compute("plant-search.yaml", (name, text) -> text.replaceAll(", name_ja: [0-9.]+", ""));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      textBlock =
          """
          weight: 8                      | weight: 9                      | at once       | fields.number.weight
          title: Genus                   | title: Genera                  | at once       | fields.genus.title
          source: garden                 | source: garden\\ngrace: 2h     | at once       | grace
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
    Map<String, String> files = edited(find, put);
    if (put.contains("name_ja")) {
      withoutJapanese(files);
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
            edited("taxon.name_en, type: exact, fold: true,", "taxon.name_en, type: integer,"));
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
    assertThat(posted("/api/check", edited("weight: 8", "weight: 9")).at("/problems")).isEmpty();
    JsonNode wrong =
        posted("/api/check", edited("analyser: french", "analyser: frensh")).at("/problems/0");
    assertThat(wrong.at("/suggestion").asString()).isEqualTo("french");
    assertThat(wrong.at("/line").asInt()).isPositive();
    JsonNode record =
        posted("/api/preview", edited("clean: [{split: \",\"}], type: integer", "type: exact"));
    assertThat(record.at("/key").asString()).isEqualTo("QB-00001");
    assertThat(record.at("/record/columns/accession_no").asString()).isEqualTo("QB-00001");
    assertThat(record.at("/tokens/latin_name")).isNotEmpty();
    assertThat(record.at("/fields/flowering/0").isString()).isTrue();
    assertThat(record.at("/record").toString()).doesNotContain("email");
    JsonNode unfit =
        posted(
            "/api/preview",
            edited("from: taxon.genus, type: exact", "from: taxon.genus, type: integer"));
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
  void thePlanThatWasShownIsTheOneThatIsApplied(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 60);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      Map<String, String> heavier = edited("weight: 8", "weight: 9");
      String plan = service.client.plan(heavier).plan();
      service.client.apply(edited("analyser: french", "analyser: german"));
      assertThatThrownBy(() -> service.client.apply(heavier, new ApplyOptions(false, plan, false)))
          .isInstanceOf(ProblemException.class)
          .hasMessageContaining("is outdated");
      service.awaitLive("plants");
      String again = service.client.plan(heavier).plan();
      assertThat(service.client.apply(heavier, new ApplyOptions(false, again, false)))
          .extracting(Applied::change)
          .contains("changed");
      VersionsCompared compared = service.client.differences("index", "plants", 1, 2);
      assertThat(compared.differences())
          .extracting(PlannedChanges.Difference::path, PlannedChanges.Difference::cost)
          .containsExactly(
              org.assertj.core.groups.Tuple.tuple("fields.name_fr.analyser", "from stored"));
      assertThat(compared.lines())
          .anyMatch(line -> line.startsWith("-") && line.contains("analyser: french"))
          .anyMatch(line -> line.startsWith("+") && line.contains("analyser: german"));
      try (MnemexClient head = new MnemexClient(service.url, "head@quillmere.example")) {
        head.apply(edited("weight: 8", "weight: 10"));
      }
      assertThat(service.client.versions("index", "plants"))
          .extracting(DefinitionEntry::author)
          .startsWith("head@quillmere.example")
          .endsWith("");
    }
  }

  @Test
  void whatIsAtOnceNeedsNoEditionAndSurvivesARestart(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 300);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      long before = found(service, "roses");
      List<Applied> applied =
          service.client.apply(
              edited("analyser: english, weight: 5", "analyser: english, query_analyser: words"));
      assertThat(applied)
          .filteredOn(one -> one.kind().equals("index"))
          .extracting(Applied::version, Applied::cost, Applied::edition)
          .containsExactly(org.assertj.core.groups.Tuple.tuple(2, "at once", null));
      // Documents have the stem, queries ask for the word.
      long after = found(service, "roses");
      assertThat(after).isLessThan(before);
      service.kill();
      service.restart();
      assertThat(found(service, "roses")).isEqualTo(after);
      IndexStatus index = service.client.indexes().getFirst();
      assertThat(index.live().number()).isEqualTo(1);
      assertThat(index.live().version()).isEqualTo(2);
      assertThat(index.next()).isNull();
    }
  }

  @Test
  void anEditionWaitsIsPromotedAndTakenBackWithoutLosingAChange(@TempDir Path folder)
      throws Exception {
    Path garden = GardenFiles.create(folder, 300);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      assertThatThrownBy(() -> service.client.promote("plants"))
          .hasMessageContaining("has no edition to promote");
      assertThatThrownBy(() -> service.client.rollback("plants"))
          .hasMessageContaining("has no previous edition");

      service.client.apply(edited("analyser: french", "analyser: german"), HOLD);
      RunningService.await(() -> isReady(service));
      assertThat(service.client.indexes().getFirst().live().number()).isEqualTo(1);
      IndexStatus promoted = service.client.promote("plants");
      assertThat(promoted.live().number()).isEqualTo(2);
      assertThat(promoted.live().fromStored()).isTrue();
      assertThat(promoted.former().number()).isEqualTo(1);
      assertThat(promoted.former().until()).isNotNull();
      AuditTest.awaitClean(service);

      GardenFiles.run(
          garden,
          "UPDATE accession SET notes = 'Quixotic', status = 'planted' WHERE accession_no = 'QB-00005'");
      service.kill();
      service.restart();
      RunningService.await(() -> found(service, "quixotic") == 1);
      RunningService.await(
          () -> {
            try {
              return service.client.rollback("plants").live().number() == 1;
            } catch (ProblemException e) {
              // It has to catch up after the start.
              assertThat(e).hasMessageContaining("lags behind");
              return false;
            }
          });
      assertThat(found(service, "quixotic")).isEqualTo(1);
      IndexStatus back = service.client.indexes().getFirst();
      assertThat(back.version()).isEqualTo(3);
      assertThat(back.live().version()).isEqualTo(3);
      assertThat(back.former().number()).isEqualTo(2);
      assertThat(service.client.plan(GardenFiles.definitions()).cost()).isNull();
      AuditTest.awaitClean(service);
      // And forth again.
      assertThat(service.client.rollback("plants").live().number()).isEqualTo(2);
      AuditTest.awaitClean(service);
    }
  }

  /** Waits until the live edition is true, and lets an audit confirm it. */
  private static boolean isReady(RunningService service) {
    IndexStatus index = service.client.indexes().getFirst();
    return index.next() != null && index.next().state().equals("ready") && index.held() != null;
  }

  private static long found(RunningService service, String words) {
    return service.client.search("plant-search", SearchQuery.words(words)).total().count();
  }

  @Test
  void aRenamedFieldKeepsItsValuesAndManyOtherResultsNeedAWord(@TempDir Path folder)
      throws Exception {
    GardenFiles.create(folder, 300);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      UnaryOperator<String> renamed =
          text -> text.replace("planted_month: {sql", "planted_in: {was: planted_month, sql");
      Map<String, String> files = GardenFiles.edited("plants.yaml", renamed);
      assertThat(service.client.plan(files).changes().getFirst().differences())
          .extracting(PlannedChanges.Difference::path, PlannedChanges.Difference::cost)
          .startsWith(org.assertj.core.groups.Tuple.tuple("fields.planted_in", "from stored"));
      Map<String, String> wrong = edited("planted_month: {sql", "planted_in: {was: name, sql");
      assertThatThrownBy(() -> service.client.plan(wrong))
          .hasMessageContaining("'name' is a field of this index");
      service.client.apply(files);
      service.awaitLive("plants");
      assertThat(service.client.index("plants").live().fromStored()).isTrue();
      AuditTest.awaitClean(service);
      assertThat(service.client.record("plants", "QB-00001").stored().computed())
          .containsKey("planted_in")
          .doesNotContainKey("planted_month");

      // Neither another order nor less makes other records of the same rows.
      service.client.apply(
          GardenFiles.edited(
              "plants.yaml",
              text ->
                  text.replaceAll("  planted_month: .*\n", "")
                      .replaceAll("(?s)(    taxon: .*?)(    bed: [^\n]*\n)", "$2$1")));
      service.awaitLive("plants");
      AuditTest.awaitClean(service);
      assertThat(service.client.record("plants", "QB-00001").stored().computed())
          .containsKey("taxonomy")
          .doesNotContainKeys("planted_in", "planted_month");

      service.client.search("plant-search", SearchQuery.words("roses"));
      service.client.apply(
          GardenFiles.edited(
              "plants.yaml",
              text ->
                  renamed
                      .apply(text)
                      .replace("source: garden", "source: garden\nmost_changed: 1%")
                      .replace("analyser: english, weight: 5", "analyser: words, weight: 5")));
      RunningService.await(() -> isReady(service));
      assertThat(service.client.index("plants").held())
          .contains("recorded queries at endpoint 'plant-search' would change");
    }
  }

  @Test
  void anIndexIsRenamedWithAllItHas(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 200);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      Map<String, String> herbs = renamed("plants", "herbs");
      Map<String, String> alone = new LinkedHashMap<>(herbs);
      alone.remove("plant-search.yaml");
      assertThatThrownBy(() -> service.client.plan(alone))
          .hasMessageContaining(
              "endpoint 'plant-search' uses index 'plants', which is now called 'herbs'");
      PlannedChanges plan = service.client.plan(herbs);
      assertThat(plan.cost()).isEqualTo("at once");
      service.client.apply(herbs);
      IndexStatus now = service.client.index("herbs");
      assertThat(now.live().number()).isEqualTo(1);
      assertThat(now.version()).isEqualTo(2);
      assertThat(service.client.indexes()).hasSize(1);
      assertThat(service.client.versions("index", "herbs")).hasSize(2);
      // What is said once may stay, and a new index may have the former name.
      assertThat(service.client.apply(herbs)).extracting(Applied::change).containsOnly("same");
      service.client.apply(
          Map.of(
              "plants.yaml",
              """
              index: plants
              source: garden
              record: {root: bed, key: [code]}
              fields: {title: {from: title, type: text}}
              """));
      service.awaitLive("plants");
      service.kill();
      GardenFiles.run(garden, "UPDATE accession SET notes = 'Quixotic' WHERE status = 'planted'");
      service.restart();
      service.awaitTrue("herbs");
      assertThat(found(service, "quixotic")).isPositive();
      // Another edition, a way back to the text with the former name, and all that is gone.
      herbs.compute("plants.yaml", (name, text) -> text.replace("french", "german"));
      service.client.apply(herbs);
      service.awaitLive("herbs");
      RunningService.await(
          () -> {
            try {
              return service.client.rollback("herbs").live().number() == 1;
            } catch (ProblemException e) {
              assertThat(e).hasMessageContaining("lags behind");
              return false;
            }
          });
      assertThat(AuditTest.audit(service, "herbs", false).clean()).isTrue();
      assertThat(AuditTest.audit(service, "plants", false).clean()).isTrue();
      service.client.apply(renamed("herbs", "plants-again"));
      assertThat(service.client.index("plants-again").live().number()).isEqualTo(1);
      service.client.remove("index", "plants");
      assertThat(AuditTest.audit(service, "plants-again", false).clean()).isTrue();
    }
  }

  /** The garden with its index renamed, and the endpoint with it. */
  private static Map<String, String> renamed(String former, String name) throws IOException {
    Map<String, String> files =
        GardenFiles.edited(
            "plants.yaml",
            text -> text.replace("index: plants", "index: " + name + "\nwas: " + former));
    files.compute(
        "plant-search.yaml", (file, text) -> text.replace("index: plants", "index: " + name));
    return files;
  }

  @Test
  void aScorecardHoldsBackAnEditionThatAnswersWorse(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 300);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      StringBuilder card =
          new StringBuilder(
              "scorecard: gardeners\nendpoint: plant-search\nmost_fall: 0.05\nqueries:\n");
      for (String words : List.of("roses", "ferns")) {
        card.append("  - words: ").append(words).append("\n    grades:\n");
        service.client.search("plant-search", SearchQuery.words(words)).results().stream()
            .limit(10)
            .forEach(result -> card.append("      ").append(result.key()).append(": 1\n"));
      }
      service.client.apply(Map.of("card.yaml", card.toString()));
      Scored best = service.client.score("gardeners", null);
      assertThat(best.total().ndcg()).isEqualTo(1);
      assertThat(best.queries()).allSatisfy(q -> assertThat(q.missing()).isEmpty());
      String other = "endpoint: plant-search\nindex: plants\nsearch: {status: 1, latin_name: 1}\n";
      assertThatThrownBy(() -> service.client.score("gardeners", null, other))
          .hasMessageContaining("does not have the use 'search'");
      String settings = other.replace("status: 1, ", "");
      assertThat(service.client.score("gardeners", null, settings).total().ndcg()).isLessThan(1);
      ComparedEditions tried =
          service.client.compare("plant-search", List.of("roses"), null, null, 10, settings);
      assertThat(tried.right()).isEqualTo(tried.left());
      assertThat(tried.changedShare()).isPositive();

      service.client.apply(edited("analyser: english, weight: 5", "analyser: words, weight: 5"));
      RunningService.await(() -> isReady(service));
      assertThat(service.client.index("plants").held())
          .matches("scorecard 'gardeners' falls from 1.000 to 0\\.\\d+ with edition 2.*");
      assertThat(service.client.scores("gardeners"))
          .extracting(ScoreEntry::edition)
          .containsExactly(1, 2);
      ComparedEditions compared =
          service.client.compare("plant-search", List.of("roses", "QB-00001"), null, null, 10);
      assertThat(compared.left()).isEqualTo(1);
      assertThat(compared.right()).isEqualTo(2);
      assertThat(compared.changedShare()).isBetween(0.01, 1.0);
      assertThat(compared.queries().getLast().changed()).isZero();
      // What was searched for before is asked again when nothing else is said.
      assertThat(service.client.compare("plant-search", List.of(), null, null, 10).queries())
          .extracting(ComparedEditions.ComparedQuery::words)
          .contains("roses", "ferns");
      assertThat(service.client.promote("plants").live().number()).isEqualTo(2);
    }
  }

  @Test
  void whatMayNeverBeReadIsGoneFromTheDiskWithTheFormerEdition(@TempDir Path folder)
      throws Exception {
    Path garden = GardenFiles.create(folder, 100);
    GardenFiles.run(garden, "UPDATE taxon SET name_ja = 'Zanzibarbarella'");
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      Path indexes = folder.resolve("mnemex-data/indexes");
      Map<String, String> files = edited("[person.email,", "[person.email, taxon.name_ja,");
      withoutJapanese(files);
      assertThat(service.client.plan(files).warnings())
          .anySatisfy(w -> assertThat(w.detail()).contains("cannot be restored"));
      service.client.apply(files);
      service.awaitLive("plants");
      assertThat(service.client.indexes().getFirst().former()).isNull();
      RunningService.await(() -> !Files.exists(indexes.resolve("plants/edition-1")));
      assertThat(filesWith(indexes, "Zanzibarbarella")).isEmpty();
      assertThat(service.client.record("plants", "QB-00001").toString())
          .doesNotContain("Zanzibarbarella");
    }
  }

  /** Files in which a text can be read, whatever stands around it. Blocks may be compressed. */
  private static List<Path> filesWith(Path folder, String text) throws IOException {
    try (Stream<Path> files = Files.walk(folder)) {
      return files
          .filter(Files::isRegularFile)
          .filter(
              file -> {
                try {
                  return new String(Files.readAllBytes(file), StandardCharsets.ISO_8859_1)
                      .contains(text);
                } catch (IOException e) {
                  throw new AssertionError(e);
                }
              })
          .toList();
    }
  }
}
