package org.mnemex.sync.feed;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.spy;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;
import java.util.function.Supplier;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.garden.server.Folders;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.FanOut;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.sqlite.SqliteSource;
import org.mockito.stubbing.Answer;

/**
 * A real database that changes at random in all its tables, a feed that is stepped, crashed and
 * opened again at random, and in the end a comparison of every document with plain SQL.
 */
class FeedModelTest {
  // Replication slots have their names for all databases of a server.
  private static final String READER = "model";
  private static final int PATIENCE_SECONDS = 240;

  /** A kind of database, empty. */
  private interface Database {
    Connection connect() throws SQLException;

    Source source();
  }

  @Property(tries = 10)
  void theIndexEndsUpSayingWhatSqliteSays(@ForAll long seed) throws Exception {
    Path folder = Files.createTempDirectory("mnemex-feed");
    Path file = folder.resolve("garden.db");
    try {
      follow(
          new Database() {
            @Override
            public Connection connect() throws SQLException {
              return DriverManager.getConnection(
                  "jdbc:sqlite:" + file + "?journal_mode=WAL&busy_timeout=5000");
            }

            @Override
            public Source source() {
              return new SqliteSource(
                  new SourceDefinition.Sqlite(
                      "garden", file, SourceDefinition.Following.PREPARING));
            }
          },
          new Random(seed),
          folder.resolve("edition"));
    } finally {
      Folders.delete(folder);
    }
  }

  @Property(tries = 6)
  void theIndexEndsUpSayingWhatPostgresSays(@ForAll long seed) throws Exception {
    SourceDefinition.Server definition = TestServers.newPostgres();
    followServer(definition, () -> new PostgresSource(definition), seed);
  }

  @Property(tries = 6)
  void theIndexEndsUpSayingWhatPostgresSaysByItsJournal(@ForAll long seed) throws Exception {
    SourceDefinition.Server definition = byJournal(TestServers.newPostgres());
    followServer(definition, () -> new PostgresSource(definition), seed);
  }

  @Property(tries = 6)
  void theIndexEndsUpSayingWhatMariadbSays(@ForAll long seed) throws Exception {
    SourceDefinition.Server definition = TestServers.newMariadb();
    followServer(definition, () -> new MariadbSource(definition), seed);
  }

  @Property(tries = 3)
  void theIndexEndsUpSayingWhatMariadbSaysByItsJournal(@ForAll long seed) throws Exception {
    SourceDefinition.Server definition = byJournal(TestServers.newMariadbWithJournal());
    followServer(definition, () -> new MariadbSource(definition), seed);
  }

  private static SourceDefinition.Server byJournal(SourceDefinition.Server server) {
    return TestServers.followed(server, new SourceDefinition.Journal());
  }

  @Test
  void aPieceOfATransactionThatFailedIsAppliedAgain(@TempDir Path folder) throws Exception {
    SourceDefinition.Server onPostgres = TestServers.newPostgres();
    failOnPieces(onPostgres, new PostgresSource(onPostgres), folder.resolve("postgres"));
    SourceDefinition.Server onMariadb = TestServers.newMariadb();
    failOnPieces(onMariadb, new MariadbSource(onMariadb), folder.resolve("mariadb"));
  }

  private static void failOnPieces(SourceDefinition.Server definition, Source source, Path folder)
      throws Exception {
    AtomicInteger reads = new AtomicInteger(Integer.MIN_VALUE);
    Source failing = spyOnReaders(source, () -> Set.of(1, 3, 6).contains(reads.incrementAndGet()));
    EditionFolder edition = EditionFolder.open(folder, ChangingGarden.PLANTS.schema());
    Feed feed = feed(failing, edition, Shard.WHOLE);
    try (Connection database = TestServers.connect(definition);
        Statement statement = database.createStatement()) {
      ChangingGarden.create(statement);
      for (int i = 0; i < 100 && !feed.isComplete(); i++) {
        step(feed);
      }
      // The first, the second and the third piece fail once.
      reads.set(0);
      statement.executeUpdate(
          "INSERT INTO accession VALUES ('a1', 1, ''), ('a2', 1, ''), ('a3', 1, ''),"
              + " ('a4', 1, ''), ('a5', 1, ''), ('a6', 1, ''), ('a7', 1, '')");
      for (int i = 0; i < 300 && edition.snapshot().documents() < 7; i++) {
        step(feed);
      }
      assertThat(documents(edition.snapshot()))
          .isEqualTo(ChangingGarden.truth(database))
          .hasSize(7);
    } finally {
      feed.abandon();
      InMemory.leave(source, READER);
      edition.close();
    }
  }

  private static void followServer(
      SourceDefinition.Server definition, Supplier<Source> source, long seed) throws Exception {
    Path folder = Files.createTempDirectory("mnemex-feed");
    try {
      follow(
          new Database() {
            @Override
            public Connection connect() throws SQLException {
              return TestServers.connect(definition);
            }

            @Override
            public Source source() {
              return source.get();
            }
          },
          new Random(seed),
          folder.resolve("edition"));
    } finally {
      Folders.delete(folder);
    }
  }

  private static void follow(Database kind, Random random, Path folder) throws Exception {
    try (Connection database = kind.connect()) {
      try (Statement statement = database.createStatement()) {
        ChangingGarden.create(statement);
      }
      for (int i = 0; i < 200; i++) {
        ChangingGarden.change(database, random);
      }
      follow(database, kind, random, folder);
    }
  }

  private static void follow(Connection database, Database kind, Random random, Path folder)
      throws Exception {
    Shard shard = random.nextBoolean() ? Shard.WHOLE : new Shard(random.nextInt(3), 3);
    EditionFolder edition = EditionFolder.open(folder, ChangingGarden.PLANTS.schema());
    Feed feed = feed(unsteady(kind.source(), random), edition, shard);
    try (SlowWriter slow = new SlowWriter(kind, database)) {
      // A replication slot is made only when all transactions that are open have ended.
      step(feed);
      for (int round = 0; round < 30; round++) {
        slow.goOn(random);
        database.setAutoCommit(false);
        for (int n = random.nextInt(8); n > 0; n--) {
          ChangingGarden.change(database, random);
          if (random.nextInt(3) == 0) {
            database.commit();
          }
        }
        database.commit();
        database.setAutoCommit(true);
        if (random.nextInt(3) > 0) {
          step(feed);
        }
        if (random.nextInt(6) == 0) {
          edition.mergeStep();
        }
        if (random.nextInt(6) == 0) {
          // The folder cannot tell this from a crash: what was not committed is lost.
          feed.abandon();
          edition.close();
          edition = EditionFolder.open(folder, ChangingGarden.PLANTS.schema());
          feed = feed(unsteady(kind.source(), random), edition, shard);
          if (feed.position() == null) {
            // Nothing was committed, so it starts once more.
            slow.end();
            step(feed);
          }
        }
      }
      slow.end();
      Map<String, String> truth = ChangingGarden.truth(database);
      truth.keySet().removeIf(key -> Shard.number(key, shard.of()) != shard.number());
      // A gap in a journal on MariaDB is believed in for some seconds.
      long deadline = System.nanoTime() + TimeUnit.SECONDS.toNanos(PATIENCE_SECONDS);
      while (!documents(edition.snapshot()).equals(truth) && System.nanoTime() < deadline) {
        step(feed);
      }
      assertThat(documents(edition.snapshot())).isEqualTo(truth);
    } finally {
      feed.abandon();
      InMemory.leave(kind.source(), READER);
      edition.close();
    }
  }

  /**
   * A transaction that stays open while others come and go, in rows of its own so that nobody waits
   * for it. SQLite has one writer at a time, so there it is none.
   */
  private static final class SlowWriter implements AutoCloseable {
    private final @Nullable Connection connection;
    private int left;

    SlowWriter(Database kind, Connection other) throws SQLException {
      boolean alone = other.getMetaData().getDatabaseProductName().equals("SQLite");
      connection = alone ? null : kind.connect();
      if (connection != null) {
        connection.setAutoCommit(false);
      }
    }

    void goOn(Random random) throws SQLException {
      Connection open = connection;
      if (open == null) {
        return;
      }
      if (left-- > 0) {
        try (Statement statement = open.createStatement()) {
          statement.executeUpdate(
              ChangingGarden.inDialectOf(
                  open,
                  "INSERT INTO family VALUES (%d, 'w%d') ON CONFLICT (id) DO UPDATE SET name = excluded.name"
                      .formatted(
                          ChangingGarden.FAMILIES + random.nextInt(4), random.nextInt(1000))));
        }
      } else if (random.nextInt(4) == 0) {
        open.rollback();
        left = random.nextInt(6);
      } else {
        open.commit();
        left = random.nextInt(6);
      }
    }

    void end() throws SQLException {
      if (connection != null) {
        connection.commit();
      }
    }

    @Override
    public void close() throws SQLException {
      if (connection != null) {
        connection.close();
      }
    }
  }

  /** As the feed's own thread does. */
  private static void step(Feed feed) throws Exception {
    try {
      feed.step();
    } catch (SourceUnavailableException e) {
      assertThat(e).hasMessage("away for a moment");
    }
  }

  /** A source that now and then cannot be asked for records. */
  private static Source unsteady(Source source, Random random) {
    Random failures = new Random(random.nextLong());
    return spyOnReaders(source, () -> failures.nextInt(12) == 0);
  }

  private static Source spyOnReaders(Source source, BooleanSupplier fails) {
    Answer<Object> unsteady =
        call -> {
          if (fails.getAsBoolean()) {
            throw new SourceUnavailableException("away for a moment", null);
          }
          return call.callRealMethod();
        };
    Source spied = spy(source);
    doAnswer(
            call -> {
              RecordReader reader = spy((RecordReader) call.callRealMethod());
              doAnswer(unsteady).when(reader).read(any());
              doAnswer(unsteady).when(reader).readBetween(any(), any());
              doAnswer(unsteady).when(reader).affected(any(FanOut.class), anyInt());
              return reader;
            })
        .when(spied)
        .reader(any(), any(), any(), any());
    return spied;
  }

  private static Feed feed(Source source, EditionFolder edition, Shard shard) {
    return new Feed(
        new FeedSettings(
            ChangingGarden.PLANTS,
            1,
            source,
            READER,
            new Pace(3, 0, 4, Duration.ofMillis(5)),
            null,
            shard),
        edition,
        mock(Quarantine.class),
        Clock.systemUTC(),
        mock(Feed.Listener.class));
  }

  private static Map<String, String> documents(Snapshot snapshot) {
    Map<String, String> documents = new TreeMap<>();
    snapshot.forEachHash(
        (key, hash) -> {
          var document = snapshot.document(key);
          assertThat(new String(document.record(), StandardCharsets.UTF_8)).startsWith("{");
          documents.put(
              key,
              String.join(
                  "|",
                  Stream.of("name", "family", "sightings", "labels")
                      .map(field -> document.fields().getOrDefault(field, List.of()))
                      .map(
                          values ->
                              String.join(",", values.stream().map(Object::toString).toList()))
                      .toList()));
        });
    return documents;
  }
}
