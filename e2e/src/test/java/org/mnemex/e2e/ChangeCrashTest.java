package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.EditionEntry;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;

/**
 * A service that is killed, or whose disk is full, in each phase of a change: when it is over, the
 * index has the definition that was applied, says what the database says, and nothing is left over.
 * The property {@code mnemex.kills} says how many rounds there are for each phase.
 */
class ChangeCrashTest {
  private static final int ROUNDS = Integer.getInteger("mnemex.kills", 1);
  private static final ApplyOptions HOLD = new ApplyOptions(false, null, true);

  /** Where a change is, as the service's log says it. */
  private enum Phase {
    APPLYING("", 60),
    FILLING("is begun", 60),
    CATCHING_UP("is filled and catches up", 10),
    CHECKING("has caught up and is checked", 60),
    GRACE("is live", 300);

    final String said;
    final int millis;

    Phase(String said, int millis) {
      this.said = said;
      this.millis = millis;
    }

    /** The last one that a service has told of since. */
    static Phase of(String log) {
      Phase last = APPLYING;
      for (Phase phase : values()) {
        if (!phase.said.isEmpty() && log.contains(phase.said)) {
          last = phase;
        }
      }
      return last;
    }
  }

  private static final String SCORECARD =
      """
      scorecard: gardeners
      endpoint: plant-search
      most_fall: 1
      queries:
      """;

  /** Another definition each time, whose edition is filled from stored records or the database. */
  private static Map<String, String> changed(int round, boolean stored) {
    return GardenFiles.edited(
        "plants.yaml",
        text ->
            stored
                ? text.replace(
                    "\nfields:\n",
                    "\nfields:\n  code_%d: {from: bed.code, type: exact}\n".formatted(round))
                : text.replace("limit: 200", "limit: " + (201 + round)));
  }

  @Test
  void killedInAnyPhaseNothingIsLostAndNothingIsLeft(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, 1000);
    Random random = new Random();
    Map<Phase, Integer> met = new EnumMap<>(Phase.class);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      // So that checking takes a while.
      StringBuilder card = new StringBuilder(SCORECARD);
      for (String words : List.of("roses", "ferns", "maple", "garden", "shade", "old", "red")) {
        service.client.search("plant-search", SearchQuery.words(words));
        card.append("  - {words: ").append(words).append(", grades: {QB-00001: 1}}\n");
      }
      service.client.apply(Map.of("card.yaml", card.toString()));
      for (int round = 0; round < ROUNDS * Phase.values().length; round++) {
        Phase aim = Phase.values()[round % Phase.values().length];
        int begun = service.log().length();
        Map<String, String> files = changed(round, random.nextBoolean());
        CompletableFuture<?> applying =
            CompletableFuture.runAsync(() -> service.client.apply(files)).exceptionally(e -> null);
        GardenFiles.run(garden, "UPDATE accession SET visitor_interest = visitor_interest + 1");
        RunningService.await(() -> Phase.of(service.log().substring(begun)).compareTo(aim) >= 0);
        TimeUnit.MICROSECONDS.sleep(random.nextInt(1000 * aim.millis));
        service.kill();
        met.merge(Phase.of(service.log().substring(begun)), 1, Integer::sum);
        applying.join();
        GardenFiles.run(
            garden,
            "UPDATE accession SET visitor_interest = visitor_interest + 1 WHERE accession_no < 'QB-00010'");
        service.restart();
        service.awaitLive("plants");
        assertAllIsWell(service, folder.resolve("mnemex-data"), garden, "round " + round);
      }
    }
    System.out.println("killed while " + met);
  }

  private static void assertAllIsWell(RunningService service, Path data, Path garden, String where)
      throws Exception {
    IndexStatus index = service.client.index("plants");
    assertThat(index.live().version()).as(where).isEqualTo(index.version());
    AuditTest.awaitClean(service);
    Set<String> there =
        service.client.editions("plants").stream()
            .filter(e -> !e.state().equals("retired"))
            .map(EditionEntry::number)
            .map(String::valueOf)
            .collect(Collectors.toSet());
    RunningService.await(() -> editionsIn(data).equals(there));
    // Nor does the source keep anything for an edition that is gone.
    RunningService.await(
        () -> {
          try {
            return GardenFiles.query(garden, "SELECT reader FROM mnemex_journal_reader").stream()
                .map(row -> String.valueOf(row.getFirst()).replaceAll("plants/(\\d+)@.*", "$1"))
                .collect(Collectors.toSet())
                .equals(there);
          } catch (SQLException e) {
            throw new AssertionError(e);
          }
        });
  }

  private static Set<String> editionsIn(Path data) {
    try (Stream<Path> folders = Files.list(data.resolve("indexes/plants"))) {
      return folders
          .map(folder -> folder.getFileName().toString().replace("edition-", ""))
          .collect(Collectors.toSet());
    } catch (IOException e) {
      throw new AssertionError(e);
    }
  }

  @Test
  void aFullDiskInAnyPhaseHoldsUpTheChangeOnly(@TempDir Path folder, @TempDir Path elsewhere)
      throws Exception {
    Path garden = GardenFiles.create(elsewhere, 1000);
    Path data = Files.createDirectories(folder.resolve("mnemex-data"));
    assumeTrue(
        mounted("mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", data.toString()),
        "a small disk can be mounted");
    Random random = new Random();
    Map<Phase, Integer> met = new EnumMap<>(Phase.class);
    try (RunningService service = RunningService.start(folder)) {
      service.client.apply(at(garden, GardenFiles.definitions()));
      service.awaitLive("plants");
      for (int round = 0; round < ROUNDS * Phase.values().length; round++) {
        Phase aim = Phase.values()[round % Phase.values().length];
        fillDisk(service, data, garden, aim, round, random);
        met.merge(aim, 1, Integer::sum);
      }
      assertThat(service.stop()).isEqualTo(143);
    } finally {
      mounted("umount", "-l", data.toString());
    }
    System.out.println("disk full while " + met);
  }

  private static void fillDisk(
      RunningService service, Path data, Path garden, Phase aim, int round, Random random)
      throws Exception {
    String where = "%s, round %d".formatted(aim.name().toLowerCase(Locale.ROOT), round);
    Path ballast = data.resolve("ballast");
    Map<String, String> files = at(garden, changed(round, random.nextBoolean()));
    // Anything from no room at all to nearly enough.
    long left = random.nextInt(3) == 0 ? 0 : random.nextInt(1 << 18);
    int begun = service.log().length();
    if (aim == Phase.APPLYING) {
      fill(ballast, data, left);
    }
    boolean hold = aim == Phase.CHECKING && random.nextBoolean();
    CompletableFuture<Boolean> applied =
        CompletableFuture.supplyAsync(
            () ->
                isDone(
                    () ->
                        service.client.apply(
                            files, hold ? HOLD : new ApplyOptions(false, null, false))));
    if (aim != Phase.APPLYING) {
      RunningService.await(() -> Phase.of(service.log().substring(begun)).compareTo(aim) >= 0);
      fill(ballast, data, left);
    }
    GardenFiles.run(garden, "UPDATE accession SET visitor_interest = visitor_interest + 1");
    boolean accepted = applied.join();
    // Whatever there is no room for, searches are answered.
    assertThat(found(service)).as(where).isPositive();
    if (hold) {
      RunningService.await(() -> service.client.index("plants").next() != null);
      isDone(() -> service.client.promote("plants"));
    } else if (aim == Phase.GRACE) {
      isDone(() -> service.client.rollback("plants"));
    }
    assertThat(found(service)).as(where).isPositive();
    boolean killed = random.nextInt(3) == 0;
    if (killed) {
      service.kill();
    }
    Files.delete(ballast);
    if (killed) {
      service.restart();
    }
    if (!accepted) {
      RunningService.await(() -> isDone(() -> service.client.apply(files)));
    }
    RunningService.await(
        () -> {
          IndexStatus index = service.client.index("plants");
          if (hold && index.held() != null) {
            isDone(() -> service.client.promote("plants"));
          }
          return index.live() != null && index.next() == null;
        });
    assertAllIsWell(service, data, garden, where);
  }

  /** Whether a call was answered; if not, because there is no room, or because it is too early. */
  private static boolean isDone(Runnable call) {
    try {
      call.run();
      return true;
    } catch (ProblemException e) {
      assertThat(e.getMessage())
          .containsAnyOf(
              "full", "No space left", "still being filled", "lags behind", "no previous");
      return false;
    }
  }

  private static long found(RunningService service) {
    return service.client.search("plant-search", SearchQuery.words("rose")).total().count();
  }

  /** The definitions with the garden's file in another place. */
  private static Map<String, String> at(Path garden, Map<String, String> files) {
    Map<String, String> all = new LinkedHashMap<>(files);
    all.compute(
        "source.yaml", (name, text) -> text.replace("mnemex-data/garden.db", garden.toString()));
    return all;
  }

  private static boolean mounted(String... command) throws Exception {
    return new ProcessBuilder(command)
            .redirectErrorStream(true)
            .redirectOutput(ProcessBuilder.Redirect.DISCARD)
            .start()
            .waitFor()
        == 0;
  }

  /** A file that takes all the room on a disk but some. */
  private static void fill(Path file, Path disk, long left) throws IOException {
    byte[] some = new byte[1 << 12];
    try (var out = Files.newOutputStream(file)) {
      while (disk.toFile().getUsableSpace() > left) {
        out.write(some);
      }
    } catch (IOException e) {
      assertThat(e).hasMessageContaining("No space left");
    }
  }
}
