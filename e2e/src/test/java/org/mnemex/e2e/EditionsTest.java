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
import org.assertj.core.groups.Tuple;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.Applied;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.ClientOptions;
import org.mnemex.client.CompareRequest;
import org.mnemex.client.ComparedEditions;
import org.mnemex.client.DefinitionEntry;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.PlannedChanges;
import org.mnemex.client.ProblemException;
import org.mnemex.client.ScoreEntry;
import org.mnemex.client.Scored;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.VersionsCompared;

/** Editions, promotion and going back, as a developer does it. */
@TestMethodOrder(MethodOrderer.MethodName.class)
class EditionsTest {
  private static final ApplyOptions HOLD = new ApplyOptions(false, null, true);

  @Test
  void thePlanThatWasShownIsTheOneThatIsApplied(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 60);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      Map<String, String> heavier = GardenFiles.replaced("weight: 8", "weight: 9");
      String plan = service.client.plan(heavier).plan();
      service.client.apply(GardenFiles.replaced("analyser: french", "analyser: german"));
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
          .containsExactly(Tuple.tuple("fields.name_fr.analyser", "from stored"));
      assertThat(compared.lines())
          .anyMatch(line -> line.startsWith("-") && line.contains("analyser: french"))
          .anyMatch(line -> line.startsWith("+") && line.contains("analyser: german"));
      try (MnemexClient head =
          new MnemexClient(service.url, ClientOptions.usual().author("head@quillmere.example"))) {
        head.apply(GardenFiles.replaced("weight: 8", "weight: 10"));
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
              GardenFiles.replaced(
                  "analyser: english, weight: 5", "analyser: english, query_analyser: words"));
      assertThat(applied)
          .filteredOn(one -> one.kind().equals("index"))
          .extracting(Applied::version, Applied::cost, Applied::edition)
          .containsExactly(Tuple.tuple(2, "at once", null));
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

      service.client.apply(GardenFiles.replaced("analyser: french", "analyser: german"), HOLD);
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
          .startsWith(Tuple.tuple("fields.planted_in", "from stored"));
      Map<String, String> wrong =
          GardenFiles.replaced("planted_month: {sql", "planted_in: {was: name, sql");
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
      Scored best = service.client.quality().score("gardeners", null);
      assertThat(best.total().ndcg()).isEqualTo(1);
      assertThat(best.queries()).allSatisfy(q -> assertThat(q.missing()).isEmpty());
      String other = "endpoint: plant-search\nindex: plants\nsearch: {status: 1, latin_name: 1}\n";
      assertThatThrownBy(() -> service.client.quality().score("gardeners", null, other))
          .hasMessageContaining("does not have the use 'search'");
      String settings = other.replace("status: 1, ", "");
      assertThat(service.client.quality().score("gardeners", null, settings).total().ndcg())
          .isLessThan(1);
      ComparedEditions tried =
          service
              .client
              .quality()
              .compare("plant-search", CompareRequest.of(List.of("roses"), 10).settings(settings));
      assertThat(tried.right()).isEqualTo(tried.left());
      assertThat(tried.changedShare()).isPositive();

      service.client.apply(
          GardenFiles.replaced("analyser: english, weight: 5", "analyser: words, weight: 5"));
      RunningService.await(() -> isReady(service));
      assertThat(service.client.index("plants").held())
          .matches("scorecard 'gardeners' falls from 1.000 to 0\\.\\d+ with edition 2.*");
      assertThat(service.client.quality().scores("gardeners"))
          .extracting(ScoreEntry::edition)
          .containsExactly(1, 2);
      ComparedEditions compared =
          service
              .client
              .quality()
              .compare("plant-search", CompareRequest.of(List.of("roses", "QB-00001"), 10));
      assertThat(compared.left()).isEqualTo(1);
      assertThat(compared.right()).isEqualTo(2);
      assertThat(compared.changedShare()).isBetween(0.01, 1.0);
      assertThat(compared.queries().getLast().changed()).isZero();
      // What was searched for before is asked again when nothing else is said.
      assertThat(
              service
                  .client
                  .quality()
                  .compare("plant-search", CompareRequest.of(List.of(), 10))
                  .queries())
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
      Map<String, String> files =
          GardenFiles.replaced("[person.email,", "[person.email, taxon.name_ja,");
      GardenFiles.removeJapanese(files);
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
