package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mnemex.sync.CuttingProxy;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.Plants;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.audit.Audit;
import org.mnemex.sync.audit.AuditFailedException;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;

/** What becomes of a running index when something happens to its database: every reaction. */
class RecoveryTest {
  private static final int PLANTS = 400;

  @TempDir private Path folder;
  private final Jumping clock = new Jumping();
  private SourceDefinition.Server definition;
  private @Nullable CuttingProxy proxy;
  private Editions editions;
  private Source source;

  /** A clock that can be put forward. */
  private static final class Jumping extends Clock {
    private volatile Duration ahead = Duration.ZERO;

    @Override
    public ZoneId getZone() {
      return ZoneOffset.UTC;
    }

    @Override
    public Clock withZone(ZoneId zone) {
      return this;
    }

    @Override
    public Instant instant() {
      return Instant.now().plus(ahead);
    }
  }

  private void start(SourceDefinition.Kind kind) throws Exception {
    start(kind, "");
  }

  /** A garden of some plants, followed and live. */
  private void start(SourceDefinition.Kind kind, String more) throws Exception {
    definition =
        kind == SourceDefinition.Kind.POSTGRES
            ? TestServers.newPostgres()
            : TestServers.newMariadb();
    run(
        "CREATE TABLE bed (id INT PRIMARY KEY, title VARCHAR(50));"
            + "CREATE TABLE plant (id INT PRIMARY KEY, name VARCHAR(50), bed_id INT, spare INT);"
            + "INSERT INTO bed VALUES (1, 'Rockery'), (2, 'Pond');");
    fill(1, PLANTS);
    run(more.isEmpty() ? "SELECT 1" : more);
    proxy = new CuttingProxy(definition.port());
    SourceDefinition.Server through =
        new SourceDefinition.Server(
            definition.name(),
            kind,
            "127.0.0.1",
            proxy.port(),
            definition.database(),
            definition.schema(),
            definition.user(),
            definition.password(),
            definition.following());
    source =
        kind == SourceDefinition.Kind.POSTGRES
            ? new PostgresSource(through)
            : new MariadbSource(through);
    editions =
        new Editions(
            "plants",
            "plants",
            folder,
            new Builder("recovery", Shard.WHOLE),
            new InMemory.Editions(),
            mock(Quarantine.class),
            clock,
            PromotionCheck.ofDocuments(),
            InMemory::leave);
    editions.build(Plants.IN_BEDS, 1, source, FillPlan.USUAL);
    await(() -> editions.live() != null);
  }

  private void fill(int from, int to) throws SQLException {
    List<String> rows = new ArrayList<>();
    for (int id = from; id <= to; id++) {
      rows.add("(%d, 'plant %d', %d, %d)".formatted(id, id, 1 + id % 2, id));
    }
    run("INSERT INTO plant VALUES " + String.join(", ", rows));
  }

  @AfterEach
  void stop() throws Exception {
    if (editions != null) {
      editions.discard();
    }
    if (proxy != null) {
      proxy.close();
    }
  }

  private void run(String sql) throws SQLException {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  private static void await(BooleanSupplier condition) throws InterruptedException {
    long deadline = System.nanoTime() + Duration.ofMinutes(4).toNanos();
    while (!condition.getAsBoolean()) {
      assertThat(System.nanoTime()).as("waited for four minutes").isLessThan(deadline);
      Thread.sleep(10);
    }
  }

  private int documents() {
    return editions.live().folder().snapshot().documents();
  }

  private FeedStatus status() {
    return editions.live().feed().status();
  }

  /** Waits until the index says what the database says, and lets an audit confirm it. */
  private void awaitTruth() throws Exception {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT count(*) FROM plant")) {
      rows.next();
      int plants = rows.getInt(1);
      await(
          () ->
              editions.next() == null
                  && documents() == plants
                  && status().phase() == FeedStatus.Phase.LIVE);
    }
    // An audit gives up on a feed that lags, as on a busy machine.
    AtomicReference<@Nullable String> told = new AtomicReference<>();
    await(
        () -> {
          told.set(audited());
          return told.get() != null;
        });
    assertThat(told.get()).contains("; 0 missing, 0 stale, 0 extra;");
  }

  /** What an audit says; null if the feed did not catch up in time. */
  private @Nullable String audited() {
    try {
      return new Audit(
              editions.live(),
              source,
              mock(Quarantine.class),
              new AuditScope.All(),
              Clock.systemUTC())
          .run(false)
          .statement();
    } catch (AuditFailedException e) {
      return null;
    } catch (Exception e) {
      throw new AssertionError(e);
    }
  }

  @ParameterizedTest
  @EnumSource
  void aColumnThatIsAddedChangesNothing(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run("ALTER TABLE plant ADD colour VARCHAR(20) DEFAULT 'green'");
    clock.ahead = Duration.ofMinutes(1);
    run("UPDATE plant SET name = 'renamed' WHERE id = 7");
    await(() -> status().changes() > 0);
    awaitTruth();
    assertThat(editions.live().number()).isEqualTo(1);
  }

  @ParameterizedTest
  @EnumSource
  void aColumnThatNobodyNeedsLeadsToANewEditionWhenItGoes(SourceDefinition.Kind kind)
      throws Exception {
    start(kind);
    run("ALTER TABLE plant DROP COLUMN spare");
    clock.ahead = Duration.ofMinutes(1);
    await(() -> editions.live().number() == 2);
    awaitTruth();
  }

  @ParameterizedTest
  @EnumSource
  void aColumnOfAnotherTypeLeadsToANewEdition(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run(
        kind == SourceDefinition.Kind.POSTGRES
            ? "ALTER TABLE plant ALTER spare TYPE VARCHAR(20)"
            : "ALTER TABLE plant MODIFY spare VARCHAR(20)");
    clock.ahead = Duration.ofMinutes(1);
    await(() -> editions.live().number() == 2);
    awaitTruth();
  }

  @ParameterizedTest
  @EnumSource
  void aColumnThatAFieldNeedsIsWaitedFor(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run("ALTER TABLE bed RENAME COLUMN title TO called");
    run("UPDATE plant SET name = 'renamed' WHERE id = 7");
    await(() -> String.valueOf(status().problem()).contains("which field 'bed' needs"));
    assertThat(status().phase()).isEqualTo(FeedStatus.Phase.WAITING);
    assertThat(documents()).isEqualTo(PLANTS);
    run("ALTER TABLE bed RENAME COLUMN called TO title");
    awaitTruth();
    assertThat(editions.live().number()).isEqualTo(1);
  }

  @ParameterizedTest
  @EnumSource
  void aTableThatHasGoneLeavesTheIndexAsItWas(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run("ALTER TABLE plant RENAME TO plant_of_old");
    clock.ahead = Duration.ofMinutes(1);
    await(
        () ->
            editions.all().stream()
                .anyMatch(
                    edition ->
                        String.valueOf(edition.feed().status().problem()).contains("plant")));
    assertThat(documents()).isEqualTo(PLANTS);
    run("ALTER TABLE plant_of_old RENAME TO plant");
    awaitTruth();
  }

  @ParameterizedTest
  @EnumSource
  void anEmptiedTableEmptiesTheIndexOnlyWhenSomebodyAgrees(SourceDefinition.Kind kind)
      throws Exception {
    start(kind);
    run("TRUNCATE TABLE plant");
    await(() -> editions.held() != null);
    assertThat(editions.held()).contains("400 fewer documents");
    assertThat(documents()).isEqualTo(PLANTS);
    editions.agree();
    await(() -> documents() == 0);
    awaitTruth();
  }

  @ParameterizedTest
  @EnumSource
  void massDeletionIsHeldUntilSomebodyAgrees(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run("DELETE FROM plant WHERE id <= 100");
    awaitTruth();
    run("DELETE FROM plant WHERE id <= 300; UPDATE plant SET name = 'left' WHERE id = 400");
    await(() -> status().phase() == FeedStatus.Phase.HELD);
    assertThat(status().problem())
        .contains("200 documents of 400 would be removed, after 100 that are gone");
    assertThat(documents()).isEqualTo(PLANTS - 100);
    editions.agree();
    awaitTruth();
    assertThat(documents()).isEqualTo(100);
  }

  /** One transaction of far more rows than are handed out at a time. */
  @ParameterizedTest
  @EnumSource
  void aTransactionThatRemovesTooMuchIsHeldWhole(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run(
        kind == SourceDefinition.Kind.POSTGRES
            ? "INSERT INTO plant SELECT i, 'p', 1, 0 FROM generate_series(1001, 21000) i"
            : "INSERT INTO plant SELECT seq, 'p', 1, 0 FROM seq_1001_to_21000");
    awaitTruth();
    long changes = status().changes();
    run("DELETE FROM plant WHERE id > 1000");
    await(() -> status().phase() == FeedStatus.Phase.HELD);
    assertThat(status().problem())
        .contains("20,000 documents of 20,400 would be removed: more than 30% within 10 minutes");
    assertThat(documents()).isEqualTo(PLANTS + 20_000);
    // It does not come back again and again to count the same changes.
    await(() -> status().changes() == changes);
    editions.agree();
    awaitTruth();
    assertThat(documents()).isEqualTo(PLANTS);
    assertThat(status().changes()).isEqualTo(changes + 20_000);
    assertThat(editions.live().number()).isEqualTo(1);
  }

  @ParameterizedTest
  @EnumSource
  void aSingleChangeDoesNotWaitForAllRecordsOfAJoinedRow(SourceDefinition.Kind kind)
      throws Exception {
    start(kind);
    run(
        kind == SourceDefinition.Kind.POSTGRES
            ? "INSERT INTO plant SELECT i, 'p', 1, 0 FROM generate_series(1001, 31000) i"
            : "INSERT INTO plant SELECT seq, 'p', 1, 0 FROM seq_1001_to_31000");
    awaitTruth();
    long before = status().changes();
    run("UPDATE bed SET title = 'Stumpery' WHERE id = 1");
    run("UPDATE plant SET name = 'single' WHERE id = 2");
    await(() -> editions.live().folder().snapshot().hash("2") != null && shows("2", "single"));
    long renamed = status().changes();
    awaitTruth();
    // Most of the fan-out was still to come when the single change was visible.
    assertThat(renamed - before).isLessThan((status().changes() - before) / 2);
    assertThat(shows("31000", "Stumpery")).isTrue();
  }

  private boolean shows(String key, String value) {
    return new String(
            editions.live().folder().snapshot().document(key).record(), StandardCharsets.UTF_8)
        .contains(value);
  }

  @ParameterizedTest
  @EnumSource
  void aPausedFeedGoesOnWhereItStopped(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    editions.pause(true);
    await(() -> status().phase() == FeedStatus.Phase.PAUSED);
    fill(PLANTS + 1, PLANTS + 5);
    assertThat(documents()).isEqualTo(PLANTS);
    editions.pause(false);
    awaitTruth();
  }

  @ParameterizedTest
  @EnumSource
  void cutsInTheMiddleOfAMessageLoseNothing(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    Random random = new Random(1759);
    for (int cut = 0; cut < 15; cut++) {
      proxy.cutAfter(random.nextInt(3000));
      fill(PLANTS + 1 + cut * 20, PLANTS + 20 + cut * 20);
      run("UPDATE bed SET title = 'Bed %d' WHERE id = %d".formatted(cut, 1 + cut % 2));
    }
    proxy.cutAfter(Long.MAX_VALUE);
    awaitTruth();
  }

  @ParameterizedTest
  @EnumSource
  void aTransactionOfManyRowsIsFollowedInPieces(SourceDefinition.Kind kind) throws Exception {
    start(kind);
    run(
        kind == SourceDefinition.Kind.POSTGRES
            ? "INSERT INTO plant SELECT i, 'p', 1, 0 FROM generate_series(1001, 31000) i"
            : "INSERT INTO plant SELECT seq, 'p', 1, 0 FROM seq_1001_to_31000");
    awaitTruth();
  }
}
