package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.garden.server.PostgresServer;

/**
 * Whatever happens to the service, the database or the connections while the database changes, in
 * the end both say the same. One database is followed in every way it can be at the same time, so
 * that each kill meets all of them. The property {@code mnemex.crashes} says how many rounds there
 * are for each kind of database.
 */
class CrashTest {
  private static final int ROUNDS = Integer.getInteger("mnemex.crashes", 3);
  private static final int ACCESSIONS = 300;
  private static final int COMPARE_EVERY = 10;

  private static final String EVERYTHING =
      """
      endpoint: everything-by-{capture}
      index: plants-by-{capture}
      sorts: {number: relevance}
      show: [number, name, latin_name, name_fr, name_ja, family, bed, status, evergreen, flowering,
             height_cm, planted_on, interest, collectors, labels, sightings]
      page: {size: 1000, most: 1000}
      """;

  private static final String VISITS =
      """
      index: visits
      source: garden-by-poll
      record:
        root: visit
        key: [id]
        only: "gone = 0"
        join:
          guide: {table: guide, match: {id: guide_id}}
      fields:
        said: {from: said, type: text}
        guide: {from: guide.name, type: exact, uses: [facet, filter, show]}
      """;

  private static final String WATERMARKS =
      "capture: poll\nwatermarks: {visit: changed_at, guide: changed_at}\nevery: 1s\noverlap: 1m";

  /** A garden and what can go wrong with it. */
  private interface Database {
    Connection connect() throws SQLException;

    /** The type of watermarks, and the expression of this moment. */
    List<String> watermark();

    /** The ways of following it that notice everything. */
    List<String> captures();

    /** Something besides the service breaks. */
    void trouble(Random random) throws Exception;
  }

  @Test
  void theIndexesSayWhatSqliteSays(@TempDir Path folder) throws Exception {
    Path garden = GardenFiles.create(folder, ACCESSIONS);
    try (RunningService service = RunningService.start(folder)) {
      rounds(
          service,
          new Database() {
            @Override
            public Connection connect() throws SQLException {
              return DriverManager.getConnection(Garden.url(garden));
            }

            @Override
            public List<String> watermark() {
              return List.of("TEXT", "strftime('%Y-%m-%dT%H:%M:%f', 'now')");
            }

            @Override
            public List<String> captures() {
              return List.of("journal");
            }

            @Override
            public void trouble(Random random) throws Exception {
              GardenFiles.lock(garden, random.nextInt(300));
            }
          },
          GardenFiles.definitions());
    }
  }

  @Test
  void theIndexesSayWhatPostgresSays(@TempDir Path folder) throws Exception {
    try (DatabaseServer server = PostgresServer.start(Files.createTempDirectory("mnemex-pg"))) {
      rounds(server, folder, "postgres", List.of("TIMESTAMPTZ", "clock_timestamp()"));
    }
  }

  @Test
  void theIndexesSayWhatMariadbSays(@TempDir Path folder) throws Exception {
    try (DatabaseServer server = MariadbServer.start(Files.createTempDirectory("mnemex-maria"))) {
      allowJournal(server);
      rounds(server, folder, "mariadb", List.of("DATETIME(6)", "UTC_TIMESTAMP(6)"));
    }
  }

  private static void rounds(
      DatabaseServer server, Path folder, String kind, List<String> watermark) throws Exception {
    server.createGarden("garden", ACCESSIONS, 7);
    try (RunningService service = RunningService.start(folder, server.environment())) {
      rounds(
          service,
          new Database() {
            @Override
            public Connection connect() throws SQLException {
              return server.connect("garden");
            }

            @Override
            public List<String> watermark() {
              return watermark;
            }

            @Override
            public List<String> captures() {
              return List.of("log", "journal");
            }

            @Override
            public void trouble(Random random) throws Exception {
              if (random.nextBoolean()) {
                server.kill();
                server.startAgain();
                if (kind.equals("mariadb")) {
                  allowJournal(server);
                }
              } else {
                server.cutConnections();
              }
            }
          },
          GardenFiles.definitionsOn(kind));
      assertThat(service.log()).doesNotContain(server.password());
      assertThat(service.get("/api/definitions").body()).doesNotContain(server.password());
    }
  }

  /** What an administrator has to allow; the setting is not kept over a restart. */
  private static void allowJournal(DatabaseServer server) throws SQLException {
    try (Connection connection = server.connect("");
        Statement statement = connection.createStatement()) {
      statement.execute("GRANT ALL PRIVILEGES ON garden.* TO '%s'@'%%'".formatted(server.user()));
      statement.execute("SET GLOBAL log_bin_trust_function_creators = 1");
    }
  }

  /** Every way of following the same garden, each with an index and an endpoint. */
  private static Map<String, String> definitions(
      Map<String, String> garden, List<String> captures) {
    Map<String, String> all = new LinkedHashMap<>();
    all.put("analysers.yaml", garden.get("analysers.yaml"));
    String source =
        garden
            .get("source.yaml")
            .replaceAll("(?m)^prepare: .*\n", "")
            .replaceAll("(?m)^capture: .*$", "{capture}\nprepare: automatic");
    for (String capture : captures) {
      String name = "garden-by-" + capture;
      all.put(
          name + ".yaml",
          source
              .replace("{capture}", "capture: " + capture)
              .replace("source: garden", "source: " + name));
      all.put(
          "plants-by-" + capture + ".yaml",
          garden
              .get("plants.yaml")
              .replace("index: plants", "index: plants-by-" + capture)
              .replace("source: garden", "source: " + name)
              // Many rounds within ten minutes remove more than a person would.
              .concat("most_removed: 100%\n"));
      all.put("everything-by-" + capture + ".yaml", EVERYTHING.replace("{capture}", capture));
    }
    all.put(
        "garden-by-poll.yaml",
        source
            .replace("{capture}", WATERMARKS)
            .replace("source: garden", "source: garden-by-poll"));
    all.put("visits.yaml", VISITS);
    return all;
  }

  private static void makeVisits(Database database) throws SQLException {
    String type = database.watermark().getFirst();
    String now = database.watermark().getLast();
    try (Connection connection = database.connect();
        Statement statement = connection.createStatement()) {
      statement.executeUpdate(
          "CREATE TABLE guide (id INTEGER PRIMARY KEY, name VARCHAR(80), changed_at %s)"
              .formatted(type));
      statement.executeUpdate(
          "CREATE TABLE visit (id INTEGER PRIMARY KEY, guide_id INTEGER, said TEXT, gone INTEGER,"
              + " changed_at %s)".formatted(type));
      for (int i = 0; i < 9; i++) {
        statement.executeUpdate(
            "INSERT INTO guide VALUES (%d, 'Guide %d', %s)".formatted(i, i, now));
      }
    }
  }

  private static void rounds(RunningService service, Database database, Map<String, String> garden)
      throws Exception {
    long seed = System.nanoTime();
    Random random = new Random(seed);
    makeVisits(database);
    List<String> indexes = new ArrayList<>(List.of("visits"));
    database.captures().forEach(capture -> indexes.add("plants-by-" + capture));
    service.client.apply(definitions(garden, database.captures()));
    try (RandomChanges changes =
        new RandomChanges(database::connect, database.watermark().getLast(), seed)) {
      for (int round = 1; round <= ROUNDS; round++) {
        // The first one comes while the indexes are being filled.
        String trouble = trouble(service, database, changes, random, round == 1);
        String where = "round %d (%s), seed %d".formatted(round, trouble, seed);
        for (String index : indexes) {
          service.awaitLive(index);
          service.awaitTrue(index);
        }
        for (String index : indexes) {
          assertThat(service.client.index(index).live().number())
              .as("the edition of %s, filled once; %s", index, where)
              .isEqualTo(1);
          assertThat(AuditTest.audit(service, index, false).statement())
              .as("%s, %s", index, where)
              .contains("; 0 missing, 0 stale, 0 extra; 0 in quarantine");
        }
        if (round % COMPARE_EVERY == 0 || round == ROUNDS) {
          for (String capture : database.captures()) {
            compare(database, service, "everything-by-" + capture, where);
          }
        }
      }
    }
  }

  /** Something breaks at a random moment while the garden is changed; what. */
  private static String trouble(
      RunningService service,
      Database database,
      RandomChanges changes,
      Random random,
      boolean atOnce)
      throws Exception {
    int begun = changes.done();
    int count = 50 + random.nextInt(250);
    CompletableFuture<Void> gardening =
        CompletableFuture.runAsync(
            () -> {
              try {
                changes.make(count);
              } catch (InterruptedException e) {
                throw new AssertionError(e);
              }
            });
    int moment = begun + (atOnce ? 0 : random.nextInt(count));
    RunningService.await(() -> changes.done() >= moment);
    int what = atOnce ? 0 : random.nextInt(4);
    if (what < 2) {
      service.kill();
      service.restart();
    }
    if (what > 0) {
      database.trouble(random);
    }
    gardening.get(5, TimeUnit.MINUTES);
    return List.of("service", "service and database", "database", "database").get(what)
        + " at change "
        + moment;
  }

  /** Every document, against plain SQL. */
  private static void compare(
      Database database, RunningService service, String endpoint, String where) throws Exception {
    Map<String, Map<String, List<Object>>> expected;
    try (Connection connection = database.connect()) {
      expected = GardenTruth.documents(connection);
    }
    Map<String, Map<String, List<Object>>> found = new TreeMap<>();
    int page = 1;
    while (true) {
      SearchAnswer answer =
          service.client.search(endpoint, SearchQuery.words("").page(page++, 1000));
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
    assertThat(new TreeSet<>(found.keySet())).as(where).isEqualTo(new TreeSet<>(expected.keySet()));
    expected.forEach(
        (key, fields) -> assertThat(found.get(key)).as("%s, %s", key, where).isEqualTo(fields));
  }
}
