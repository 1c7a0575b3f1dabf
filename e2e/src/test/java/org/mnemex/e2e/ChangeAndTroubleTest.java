package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentSkipListSet;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.Stream;
import org.assertj.core.groups.Tuple;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.Applied;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;

/** Definitions that change, databases that go away, services that stop. */
class ChangeAndTroubleTest {
  @Test
  void aChangedIndexIsBuiltBesideTheLiveOneWhichAnswersAllTheTime(@TempDir Path folder)
      throws Exception {
    Path garden = GardenFiles.create(folder, 1200);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      long before = service.client.search("plant-search", SearchQuery.words("")).total().count();
      Map<String, String> files = new LinkedHashMap<>(GardenFiles.definitions());
      files.compute(
          "plants.yaml",
          (name, text) ->
              text + "  observers: {from: sightings.observer, type: exact}\ngrace: none\n");
      files.compute(
          "plant-search.yaml", (name, text) -> text.replace("show: [", "show: [observers, "));

      AtomicBoolean done = new AtomicBoolean();
      Set<String> editionsSeen = new ConcurrentSkipListSet<>();
      Thread searching =
          Thread.ofPlatform()
              .start(
                  () -> {
                    while (!done.get()) {
                      SearchAnswer answer =
                          service.client.search("plant-search", SearchQuery.words(""));
                      boolean observers =
                          answer.results().stream()
                              .anyMatch(r -> r.fields().containsKey("observers"));
                      editionsSeen.add(
                          answer.asOf().edition() + " " + answer.total().count() + " " + observers);
                    }
                  });
      assertThat(service.client.apply(files))
          .filteredOn(a -> a.kind().equals("index"))
          .extracting(Applied::change, Applied::edition)
          .containsExactly(Tuple.tuple("changed", 2));
      // Changes that never rest must not keep the new edition from being promoted.
      Thread changing =
          Thread.ofPlatform()
              .start(
                  () -> {
                    try {
                      while (!done.get()) {
                        GardenFiles.run(
                            garden,
                            "UPDATE accession SET visitor_interest = visitor_interest + 1"
                                + " WHERE accession_no = 'QB-00001'");
                      }
                    } catch (SQLException e) {
                      throw new AssertionError(e);
                    }
                  });
      service.awaitLive("plants");
      RunningService.await(() -> editionsSeen.stream().anyMatch(seen -> seen.startsWith("2 ")));
      done.set(true);
      searching.join();
      changing.join();
      assertThat(editionsSeen).containsOnly("1 " + before + " false", "2 " + before + " true");
      IndexStatus index = service.client.indexes().getFirst();
      assertThat(index.live().number()).isEqualTo(2);
      assertThat(index.version()).isEqualTo(2);
      assertThat(folder.resolve("mnemex-data/indexes/plants/edition-2")).exists();
      RunningService.await(
          () -> !Files.exists(folder.resolve("mnemex-data/indexes/plants/edition-1")));
      service.awaitTrue("plants");
      assertThat(service.client.record("plants", "QB-00001").agrees()).isTrue();
    }
  }

  @Test
  void aMissingOrLockedDatabaseIsSaidAndWaitedFor(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 200);
    Path away = garden.resolveSibling("away.db");
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      service.stop();
      checkpointAndMove(garden, away);
      service.restart();

      RunningService.await(
          () -> {
            IndexStatus index = service.client.indexes().getFirst();
            return !index.fresh()
                && String.valueOf(index.live().problem()).contains("garden.db does not exist");
          });
      assertThat(service.client.search("plant-search", SearchQuery.words("")).total().count())
          .isPositive();
      assertThat(garden).doesNotExist();

      Files.move(away, garden);
      GardenFiles.run(
          garden,
          "UPDATE accession SET notes = 'Quixotic', status = 'planted' WHERE accession_no ="
              + " 'QB-00005'");
      RunningService.await(
          () ->
              service.client.search("plant-search", SearchQuery.words("quixotic")).total().count()
                  == 1);
      RunningService.await(() -> service.client.indexes().getFirst().fresh());

      try (Connection locker = DriverManager.getConnection(Garden.url(garden));
          Statement statement = locker.createStatement()) {
        statement.execute("BEGIN EXCLUSIVE");
        statement.execute("UPDATE accession SET notes = 'Zephyr' WHERE accession_no = 'QB-00005'");
        assertThat(
                service.client.search("plant-search", SearchQuery.words("zephyr")).total().count())
            .isZero();
        statement.execute("COMMIT");
      }
      RunningService.await(
          () ->
              service.client.search("plant-search", SearchQuery.words("zephyr")).total().count()
                  == 1);
    }
  }

  private static void checkpointAndMove(Path from, Path to) throws Exception {
    try (Connection connection = DriverManager.getConnection(Garden.url(from));
        Statement statement = connection.createStatement()) {
      statement.execute("PRAGMA wal_checkpoint(TRUNCATE)");
    }
    Files.move(from, to);
  }

  @Test
  void anotherDatabaseUnderTheSameNameIsIndexedAnew(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 150);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      service.stop();
      checkpointAndMove(garden, garden.resolveSibling("old.db"));
      Garden.create(garden, 90, 8);
      service.restart();
      RunningService.await(
          () -> {
            IndexStatus.Edition live = service.client.indexes().getFirst().live();
            return live != null && live.number() == 2;
          });
      assertThat(service.client.indexes().getFirst().live().documents())
          .isEqualTo(GardenTruth.documents(garden).size());
    }
  }

  @Test
  void aDamagedEditionIsNamedAndFilledAnew(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 150);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      service.stop();
      Path segment;
      try (Stream<Path> files =
          Files.list(folder.resolve("mnemex-data/indexes/plants/edition-1"))) {
        segment = files.filter(file -> file.toString().endsWith(".mnx")).findFirst().orElseThrow();
      }
      byte[] bytes = Files.readAllBytes(segment);
      bytes[bytes.length / 2] ^= 1;
      Files.write(segment, bytes);
      service.restart();
      // It may answer until the comparison of all its bytes has come to that one.
      RunningService.await(
          () -> {
            IndexStatus.Edition now = service.client.indexes().getFirst().live();
            return now != null && now.number() == 2;
          });
      assertThat(service.log())
          .contains(
              "edition 1 is damaged and no longer used: "
                  + segment.getFileName()
                  + ": its bytes have changed");
      IndexStatus.Edition live = service.client.indexes().getFirst().live();
      assertThat(live.documents()).isEqualTo(GardenTruth.documents(garden).size());
      // The journal keeps changes for the new edition only.
      RunningService.await(() -> readers(garden).size() == 1);
      assertThat(readers(garden).getFirst()).startsWith("plants/2@");
    }
  }

  private static List<String> readers(Path garden) {
    try {
      return GardenFiles.query(garden, "SELECT reader FROM mnemex_journal_reader").stream()
          .map(row -> String.valueOf(row.getFirst()))
          .toList();
    } catch (SQLException e) {
      throw new AssertionError(e);
    }
  }

  @Test
  void aServiceThatIsAskedToStopLosesNothingAndGoesOn(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 200);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      GardenFiles.run(garden, "UPDATE accession SET height_cm = 88888 WHERE status = 'planted'");
      assertThat(service.stop()).isIn(0, 143);
      GardenFiles.run(garden, "DELETE FROM accession WHERE accession_no < 'QB-00050'");
      service.restart();
      service.awaitTrue("plants");
      assertThat(service.client.indexes().getFirst().live().documents())
          .isEqualTo(GardenTruth.documents(garden).size());
      assertThat(service.client.indexes().getFirst().live().number()).isEqualTo(1);
    }
  }
}
