package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/**
 * What a feed says of its truth, asked at any moment while rows change, of a table of its own, of
 * one that another index reads, and of one that nobody reads: never too much.
 */
class ClaimedTruthTest {
  private static final int ROUNDS = 60;

  /** A way to follow a database. */
  enum Way {
    SQLITE,
    POSTGRES_LOG,
    POSTGRES_JOURNAL,
    MARIADB_LOG,
    MARIADB_JOURNAL
  }

  @TempDir private Path folder;
  private Source source;
  private String url;
  private SourceDefinition.Server server;

  private static IndexDefinition over(String table) {
    return new IndexDefinition(
        table,
        "garden",
        new RecordShape(table, List.of("id"), null, List.of(), Set.of()),
        List.of(Shapes.field("name", "name")),
        "");
  }

  private void open(Way way) throws Exception {
    switch (way) {
      case SQLITE -> {
        Path file = folder.resolve("garden.db");
        url = "jdbc:sqlite:" + file + "?busy_timeout=10000&journal_mode=WAL";
        source =
            new SqliteSource(
                new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING));
      }
      case POSTGRES_LOG -> source = new PostgresSource(server = TestServers.newPostgres());
      case POSTGRES_JOURNAL -> {
        server = TestServers.followed(TestServers.newPostgres(), new SourceDefinition.Journal());
        source = new PostgresSource(server);
      }
      case MARIADB_LOG -> source = new MariadbSource(server = TestServers.newMariadb());
      case MARIADB_JOURNAL -> {
        server =
            TestServers.followed(
                TestServers.newMariadbWithJournal(), new SourceDefinition.Journal());
        source = new MariadbSource(server);
      }
    }
  }

  private Connection connect() throws SQLException {
    return server == null ? DriverManager.getConnection(url) : TestServers.connect(server);
  }

  @ParameterizedTest
  @EnumSource
  void whatIsClaimedIsThere(Way way) throws Exception {
    open(way);
    try (Connection connection = connect();
        Statement statement = connection.createStatement();
        Source.Capture asking = source.capture("asking")) {
      for (String table : List.of("plant", "lot", "visit")) {
        statement.execute("CREATE TABLE " + table + " (id bigint PRIMARY KEY, name varchar(50))");
      }
      Follower plants = Follower.start(over("plant"), source, folder.resolve("plants"));
      Follower lots = Follower.start(over("lot"), source, folder.resolve("lots"));
      AtomicBoolean over = new AtomicBoolean();
      CompletableFuture<Void> others = CompletableFuture.runAsync(() -> changeOthers(over));
      try {
        Feed feed = plants.live().feed();
        for (int id = 1; id <= ROUNDS; id++) {
          statement.execute("INSERT INTO plant VALUES (%d, 'fern')".formatted(id));
          if (id % 2 == 0) {
            Instant committed = Instant.now();
            await(() -> isAfter(feed.trueAt(), committed));
          } else {
            Position written = asking.last();
            await(() -> feed.position().reaches(written));
          }
          assertThat(plants.live().folder().snapshot().hash(Integer.toString(id)))
              .as("plant %d", id)
              .isNotNull();
        }
      } finally {
        over.set(true);
        others.join();
        plants.close();
        lots.close();
      }
    }
  }

  /** Without a pause, so that it is asked at all moments. */
  private static void await(BooleanSupplier claimed) {
    long deadline = System.nanoTime() + Duration.ofMinutes(1).toNanos();
    while (!claimed.getAsBoolean()) {
      assertThat(System.nanoTime()).as("claimed within a minute").isLessThan(deadline);
      Thread.onSpinWait();
    }
  }

  private void changeOthers(AtomicBoolean over) {
    try (Connection connection = connect();
        Statement statement = connection.createStatement()) {
      for (int id = 1; !over.get(); id++) {
        statement.execute("INSERT INTO visit VALUES (%d, 'seen')".formatted(id));
        if (id % 3 == 0) {
          statement.execute("INSERT INTO lot VALUES (%d, 'of fern')".formatted(id));
        }
      }
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  private static boolean isAfter(Instant claimed, Instant moment) {
    return claimed != null && claimed.isAfter(moment);
  }
}
