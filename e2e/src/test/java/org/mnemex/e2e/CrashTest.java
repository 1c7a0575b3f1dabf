package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Clock;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;
import org.mnemex.garden.Gardener;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.garden.server.PostgresServer;

/** Whatever happens to the service while the database changes, in the end both say the same. */
class CrashTest {
  private static final int ACCESSIONS = 1200;
  private static final int CHANGES = 2000;
  private static final int KILLS = 2;

  private static final String EVERYTHING =
      """
      endpoint: everything
      index: plants
      sorts: {number: relevance}
      show: [number, name, latin_name, name_fr, name_ja, family, bed, status, evergreen, flowering,
             height_cm, planted_on, interest, collectors, labels, sightings]
      page: {size: 1000, most: 1000}
      """;

  /** A garden that the service can lose. */
  private interface Database {
    Connection connect() throws SQLException;

    /** Something besides the service that breaks at a kill. */
    void trouble() throws Exception;
  }

  @Test
  void afterKillsAtRandomMomentsEveryDocumentEqualsTheSqliteDatabase(@TempDir Path folder)
      throws Exception {
    Path garden = GardenFiles.create(folder, ACCESSIONS);
    try (RunningService service = RunningService.start(folder)) {
      killAndCompare(
          service,
          new Database() {
            @Override
            public Connection connect() throws SQLException {
              return DriverManager.getConnection(Garden.url(garden));
            }

            @Override
            public void trouble() {
              // The database is a file; there is nothing to cut.
            }
          },
          GardenFiles.definitions());
    }
  }

  @Test
  void afterKillsAndCutConnectionsEveryDocumentEqualsThePostgresDatabase(@TempDir Path folder)
      throws Exception {
    try (DatabaseServer server = PostgresServer.start(Files.createTempDirectory("mnemex-pg"))) {
      killAndCompare(server, folder, "postgres");
    }
  }

  @Test
  void afterKillsAndCutConnectionsEveryDocumentEqualsTheMariadbDatabase(@TempDir Path folder)
      throws Exception {
    try (DatabaseServer server = MariadbServer.start(Files.createTempDirectory("mnemex-maria"))) {
      killAndCompare(server, folder, "mariadb");
    }
  }

  private static void killAndCompare(DatabaseServer server, Path folder, String kind)
      throws Exception {
    server.createGarden("garden", ACCESSIONS, 7);
    try (RunningService service = RunningService.start(folder, server.environment())) {
      killAndCompare(
          service,
          new Database() {
            @Override
            public Connection connect() throws SQLException {
              return server.connect("garden");
            }

            @Override
            public void trouble() throws SQLException {
              server.cutConnections();
            }
          },
          GardenFiles.definitionsOn(kind));
      assertThat(service.log()).doesNotContain(server.password());
      assertThat(service.get("/api/definitions").body()).doesNotContain(server.password());
    }
  }

  private static void killAndCompare(
      RunningService service, Database database, Map<String, String> garden) throws Exception {
    long seed = System.nanoTime();
    Random random = new Random(seed);
    Map<String, String> definitions = new LinkedHashMap<>(garden);
    definitions.put("everything.yaml", EVERYTHING);
    service.client.apply(definitions);
    AtomicInteger done = new AtomicInteger();
    CompletableFuture<Void> gardening =
        CompletableFuture.runAsync(
            () -> {
              try (Gardener gardener = new Gardener(database.connect(), seed, Clock.systemUTC())) {
                while (done.get() < CHANGES) {
                  gardener.change();
                  done.incrementAndGet();
                  // Bursts and pauses, so that kills meet small and large batches.
                  if (random.nextInt(20) == 0) {
                    TimeUnit.MILLISECONDS.sleep(random.nextInt(200));
                  }
                }
              } catch (Exception e) {
                throw new AssertionError("seed " + seed, e);
              }
            });
    for (int kill = 1; kill <= KILLS; kill++) {
      // The first kill comes while the index is being built.
      int at = kill == 1 ? 1 : CHANGES * (kill - 1) / KILLS + random.nextInt(100);
      RunningService.await(() -> done.get() >= at || gardening.isDone());
      service.kill();
      service.restart();
      database.trouble();
    }
    gardening.get(5, TimeUnit.MINUTES);
    service.awaitLive("plants");
    awaitTrue(service);
    try (Connection connection = database.connect()) {
      compare(connection, service, seed);
    }
    assertThat(AuditTest.audit(service, false).statement())
        .as("seed %d", seed)
        .contains("; 0 missing, 0 stale, 0 extra; 0 in quarantine");
  }

  /** Waits until the feed has looked at the database after the last change. */
  static void awaitTrue(RunningService service) {
    String now = Clock.systemUTC().instant().toString();
    RunningService.await(
        () -> {
          var live = service.client.indexes().getFirst().live();
          return live != null && live.trueAt() != null && live.trueAt().compareTo(now) > 0;
        });
  }

  static void compare(Connection garden, RunningService service, long seed) throws Exception {
    Map<String, Map<String, List<Object>>> expected = GardenTruth.documents(garden);
    Map<String, Map<String, List<Object>>> found = new TreeMap<>();
    int page = 1;
    while (true) {
      SearchAnswer answer =
          service.client.search("everything", SearchQuery.words("").page(page++, 1000));
      for (SearchAnswer.Result result : answer.results()) {
        Map<String, List<Object>> fields = new LinkedHashMap<>();
        result
            .fields()
            .forEach(
                (name, value) ->
                    fields.put(
                        name,
                        value instanceof List<?> list
                            ? new ArrayList<Object>(list)
                            : List.of(value)));
        found.put(result.key(), fields);
      }
      if (page > answer.pages()) {
        break;
      }
    }
    assertThat(new TreeSet<>(found.keySet()))
        .as("seed %d", seed)
        .isEqualTo(new TreeSet<>(expected.keySet()));
    expected.forEach(
        (key, fields) -> assertThat(found.get(key)).as("%s, seed %d", key, seed).isEqualTo(fields));
  }
}
