package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;
import java.util.stream.Stream;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.FollowedDatabase;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.audit.Audit;
import org.mnemex.sync.audit.AuditResult;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.push.PushSource;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/**
 * A key is the same key wherever it comes from: a query, the log, a journal, or its own text. What
 * names records by text (quarantine, repair, filling from stored records) is tried with every type
 * that a key can have.
 */
class KeyTypesTest {
  /** How a database is followed. */
  enum Way {
    SQLITE,
    SQLITE_POLL,
    POSTGRES_LOG,
    POSTGRES_JOURNAL,
    MARIADB_LOG,
    MARIADB_JOURNAL,
    PUSH
  }

  /**
   * A kind of key.
   *
   * @param columns of the table, as the database declares them
   * @param bad SQL values of the record that does not fit
   * @param good SQL values of the one that does
   */
  private record KeyType(List<String> columns, String bad, String good) {}

  private static KeyType single(String type, String bad, String good) {
    return new KeyType(List.of(type), bad, good);
  }

  private static KeyType pair(String first, String second) {
    return new KeyType(List.of(first, second), "3, 'a/b~c'", "20, 'x'");
  }

  private static final SourceDefinition.Poll POLL =
      new SourceDefinition.Poll(
          Map.of("plant", "changed"), Duration.ofMillis(50), Duration.ofHours(1), ZoneId.of("UTC"));

  /** A time that clocks skip in the zone in which tests run, when summer begins. */
  private static final String SKIPPED = "2026-09-27 03:00:00.250";

  private static final List<KeyType> SQLITE =
      List.of(
          single("INTEGER", "3", "20"),
          single("NUMERIC(8, 2)", "3.25", "20"),
          single("REAL", "3.0", "2e30"),
          single("TEXT", "'007'", "'x''y'"),
          single("UUID", "'0b0e9d2e-58b8-4bd5-a1c7-6a3f3d5c2b11'", "'7'"),
          single("DATE", "'2026-05-04'", "'1999-12-31'"),
          single("", "3", "20"),
          single("", "'3'", "'20'"),
          pair("INT", "TEXT"));

  private static final List<KeyType> POSTGRES =
      List.of(
          single("int", "3", "20"),
          single("bigint", "9007199254740993", "-1"),
          single("numeric(8, 2)", "3.50", "20"),
          single("numeric", "3.500", "20"),
          single("double precision", "3", "2e30"),
          single("text", "'007'", "'x''y'"),
          single("char(5)", "'a'", "'b'"),
          single("uuid", "'0B0E9D2E-58b8-4bd5-a1c7-6a3f3d5c2b11'", "gen_random_uuid()"),
          single("date", "'2026-05-04'", "'1999-12-31'"),
          single("timestamptz", "'2026-05-04 10:00+02'", "'1999-12-31'"),
          single("timestamp", "'%s'".formatted(SKIPPED), "'1999-12-31'"),
          single("boolean", "true", "false"),
          pair("int", "text"));

  private static final List<KeyType> MARIADB =
      List.of(
          single("int", "3", "20"),
          single("bigint", "9007199254740993", "-1"),
          single("bigint unsigned", "18446744073709551615", "5"),
          single("decimal(30, 2)", "12345678901234567890.50", "20"),
          single("varchar(9)", "'Abc'", "'x''y'"),
          single("char(36)", "'0B0E9D2E-58b8-4bd5-a1c7-6a3f3d5c2b11'", "'7'"),
          single("date", "'2026-05-04'", "'1999-12-31'"),
          single("datetime(3)", "'%s'".formatted(SKIPPED), "'1999-12-31'"),
          // The same in UTC.
          single("timestamp(3)", "FROM_UNIXTIME(1790478000.25)", "'1999-12-31'"),
          pair("int", "varchar(9)"));

  private static final int AT_ONCE = 4;
  private static final AtomicInteger TRIALS = new AtomicInteger();

  @TempDir private Path folder;

  @ParameterizedTest
  @EnumSource
  void aRecordIsNamedByItsText(Way way) throws Exception {
    switch (way) {
      case SQLITE_POLL ->
          each(
              SQLITE,
              type -> {
                Path file = folder.resolve("db-" + SQLITE.indexOf(type));
                SourceDefinition.Sqlite definition =
                    new SourceDefinition.Sqlite(
                        "garden", file, new SourceDefinition.Following(true, 0, POLL));
                try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file)) {
                  database(type, connection, new SqliteSource(definition));
                }
              });
      case SQLITE -> followed(FollowedDatabase.Way.SQLITE, SQLITE);
      case POSTGRES_LOG -> followed(FollowedDatabase.Way.POSTGRES_LOG, POSTGRES);
      case POSTGRES_JOURNAL -> followed(FollowedDatabase.Way.POSTGRES_JOURNAL, POSTGRES);
      case MARIADB_LOG -> followed(FollowedDatabase.Way.MARIADB_LOG, MARIADB);
      case MARIADB_JOURNAL -> followed(FollowedDatabase.Way.MARIADB_JOURNAL, MARIADB);
      case PUSH -> {
        PushSource source =
            new PushSource(
                new SourceDefinition.Push("garden", SourceDefinition.Following.PREPARING),
                new InMemory.Pushes());
        source.push(List.of("3"), (key, before) -> "{\"k0\": 3, \"height\": \"tall\"}");
        source.push(List.of("20"), (key, before) -> "{\"k0\": 20, \"height\": \"7\"}");
        check(
            source,
            "",
            1,
            () -> source.push(List.of("3"), (key, before) -> "{\"k0\": 3, \"height\": \"8\"}"));
      }
    }
  }

  private void followed(FollowedDatabase.Way way, List<KeyType> types) throws Exception {
    each(
        types,
        type -> {
          FollowedDatabase database =
              new FollowedDatabase(way, Files.createTempDirectory(folder, "db"));
          try (Connection connection = database.connect()) {
            database(type, connection, database.source);
          }
        });
  }

  @FunctionalInterface
  private interface Trial {
    void of(KeyType type) throws Exception;
  }

  /** Most of the time is spent waiting, so several are tried at once. */
  private static void each(List<KeyType> types, Trial trial) throws Exception {
    try (ExecutorService pool = Executors.newFixedThreadPool(AT_ONCE)) {
      List<Callable<Boolean>> trials = new ArrayList<>();
      for (KeyType type : types) {
        trials.add(
            () -> {
              trial.of(type);
              return true;
            });
      }
      for (Future<Boolean> done : pool.invokeAll(trials)) {
        done.get();
      }
    }
  }

  private void database(KeyType type, Connection connection, Source source) throws Exception {
    List<String> columns = new ArrayList<>();
    List<String> names = new ArrayList<>();
    for (String column : type.columns) {
      names.add("k" + names.size());
      columns.add(names.getLast() + " " + column + " NOT NULL");
    }
    String moment = source instanceof SqliteSource ? "TEXT" : "VARCHAR(30)";
    String now = source instanceof SqliteSource ? "strftime('%Y-%m-%d %H:%M:%f')" : "''";
    // So long ago that polling does not read it again by itself.
    String before = source instanceof SqliteSource ? "'2026-01-01 00:00:00.000'" : "''";
    run(
        connection,
        "CREATE TABLE plant (%s, height VARCHAR(9), changed %s, PRIMARY KEY (%s))"
            .formatted(String.join(", ", columns), moment, String.join(", ", names)),
        "INSERT INTO plant VALUES (%s, 'tall', %s), (%s, '7', %s)"
            .formatted(type.bad, before, type.good, before));
    check(
        source,
        "plant",
        names.size(),
        () ->
            run(
                connection,
                "UPDATE plant SET height = '8', changed = %s WHERE height = 'tall'"
                    .formatted(now)));
  }

  private static void run(Connection connection, String... statements) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }

  private static IndexDefinition definition(String root, int columns, Use... uses) {
    return new IndexDefinition(
        "plants",
        "garden",
        new RecordShape(
            root,
            Stream.iterate(0, i -> i + 1).limit(columns).map(i -> "k" + i).toList(),
            null,
            List.of(),
            Set.of()),
        List.of(
            new FieldDefinition(
                Field.of("height", FieldType.INTEGER, null, uses),
                ColumnRef.of("height"),
                null,
                List.of(),
                "Height")),
        "");
  }

  @FunctionalInterface
  private interface Mending {
    void run() throws Exception;
  }

  /** Two records, of which one waits in quarantine. */
  private void check(Source source, String root, int columns, Mending mending) throws Exception {
    InMemory.Records quarantine = new InMemory.Records();
    // Replication slots have their names for all databases of a server.
    String installation = "keys" + TRIALS.incrementAndGet();
    Editions editions =
        new Editions(
            "plants",
            "plants",
            folder.resolve(installation),
            new Builder(installation, Shard.WHOLE),
            new InMemory.Editions(),
            quarantine,
            Clock.systemUTC(),
            PromotionCheck.ofDocuments(),
            InMemory::leave);
    try {
      editions.build(definition(root, columns, Use.FILTER), 1, source, FillPlan.USUAL);
      await(() -> editions.live() != null);
      assertThat(editions.live().number()).isEqualTo(1);
      String bad = quarantine.keys("plants", 1).stream().findFirst().orElseThrow();

      // Read again under its text, it is still in quarantine.
      Edition live = editions.live();
      live.feed().readAgain(List.of(RecordKey.parse(bad, columns)));
      long changes = live.feed().status().changes();
      awaitTrue(live);
      assertThat(live.feed().status().changes()).isGreaterThanOrEqualTo(changes);
      assertThat(quarantine.keys("plants", 1)).as("key '%s' of %s", bad, source).containsOnly(bad);
      assertThat(audit(live, source, quarantine, new AuditScope.Key(bad), false).statement())
          .contains("0 missing, 0 stale, 0 extra; 1 in quarantine");

      // A document that is missing is repaired.
      String good = keys(live).getFirst();
      live.folder().delete(good);
      live.folder().refresh(live.folder().snapshot().checkpoint());
      assertThat(audit(live, source, quarantine, new AuditScope.All(), true).missing())
          .containsExactly(good);
      await(() -> live.folder().snapshot().documents() == 1);

      // Filled from stored records, the record in quarantine is asked for by its text.
      editions.build(
          definition(root, columns, Use.FILTER, Use.SHOW), 2, source, new FillPlan(true, false));
      await(() -> editions.live().number() == 2);
      Edition second = editions.live();
      assertThat(second.entry().plan().fromStored()).isTrue();
      await(() -> quarantine.keys("plants", 2).contains(bad));
      assertThat(keys(second)).containsExactly(good);

      // Mended, it comes back under the same key.
      mending.run();
      await(() -> second.folder().snapshot().documents() == 2);
      assertThat(quarantine.keys("plants", 2)).isEmpty();
      assertThat(keys(second)).containsExactlyInAnyOrder(bad, good);
      assertThat(audit(second, source, quarantine, new AuditScope.All(), false).clean()).isTrue();
    } finally {
      editions.discard();
    }
  }

  private static List<String> keys(Edition edition) {
    List<String> keys = new ArrayList<>();
    edition.folder().snapshot().forEachHash((key, hash) -> keys.add(key));
    return keys;
  }

  private static AuditResult audit(
      Edition edition, Source source, InMemory.Records quarantine, AuditScope scope, boolean repair)
      throws Exception {
    await(() -> edition.feed().status().phase() == FeedStatus.Phase.LIVE);
    return new Audit(edition, source, quarantine, scope, Clock.systemUTC()).run(repair);
  }

  private static void awaitTrue(Edition edition) throws InterruptedException {
    Instant now = Instant.now();
    await(() -> edition.feed().trueAt() != null && edition.feed().trueAt().isAfter(now));
    // Once more: what was asked for is read before the changes are looked for.
    Instant then = Instant.now();
    await(() -> edition.feed().trueAt() != null && edition.feed().trueAt().isAfter(then));
  }

  private static void await(BooleanSupplier condition) throws InterruptedException {
    long deadline = System.nanoTime() + Duration.ofMinutes(2).toNanos();
    while (!condition.getAsBoolean()) {
      assertThat(System.nanoTime()).as("waited for two minutes").isLessThan(deadline);
      Thread.sleep(10);
    }
  }
}
