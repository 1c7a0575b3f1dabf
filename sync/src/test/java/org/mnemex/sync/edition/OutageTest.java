package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.sync.CuttingProxy;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.Plants;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Shard;

/** Many indexes on one source whose database stops answering without a word. */
class OutageTest {
  private static final int INDEXES = 50;

  /**
   * Longer than a closing waits for a database, and than several rounds of trying again; more
   * seconds for a longer look: {@code -Dmnemex.outage=120}.
   */
  private static final Duration OUTAGE = Duration.ofSeconds(Long.getLong("mnemex.outage", 20));

  @TempDir private Path folder;

  private static IndexDefinition definition(int number) {
    return Plants.called("plants-" + number);
  }

  private static long count(SourceDefinition.Server server, String sql) throws SQLException {
    try (Connection connection = TestServers.connect(server);
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(sql)) {
      rows.next();
      return rows.getLong(1);
    }
  }

  private static long connections(SourceDefinition.Server server) throws SQLException {
    return count(
        server,
        "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()"
            + " AND application_name = 'mnemex'");
  }

  private static long slots(SourceDefinition.Server server) throws SQLException {
    return count(
        server, "SELECT count(*) FROM pg_replication_slots WHERE database = current_database()");
  }

  @Test
  void everythingIsBoundedAndComesBackToWhatItWas() throws Exception {
    // By a journal: servers allow few replication slots.
    SourceDefinition.Server server =
        TestServers.followed(TestServers.newPostgres(), new SourceDefinition.Journal());
    try (Connection connection = TestServers.connect(server);
        Statement statement = connection.createStatement()) {
      statement.execute("CREATE TABLE plant (id int PRIMARY KEY, name text)");
      statement.execute("INSERT INTO plant SELECT i, 'fern ' || i FROM generate_series(1, 50) i");
    }
    try (CuttingProxy proxy = new CuttingProxy(server.port())) {
      PostgresSource source =
          new PostgresSource(
              new SourceDefinition.Server(
                  server.name(),
                  server.kind(),
                  "127.0.0.1",
                  proxy.port(),
                  server.database(),
                  server.schema(),
                  server.user(),
                  server.password(),
                  server.following()));
      List<Editions> all = new ArrayList<>();
      for (int i = 0; i < INDEXES; i++) {
        Editions editions =
            new Editions(
                "plants-" + i,
                "plants-" + i,
                folder.resolve("index-" + i),
                new Builder("outage", Shard.WHOLE),
                new InMemory.Editions(),
                new InMemory.Records(),
                Clock.systemUTC(),
                PromotionCheck.ofDocuments(),
                (of, reader) -> {});
        editions.build(definition(i), 1, source, FillPlan.USUAL);
        all.add(editions);
      }
      Follower.await(() -> all.stream().allMatch(editions -> editions.live() != null));
      awaitLive(all);
      long connections = connections(server);
      int threads = Thread.activeCount();

      proxy.stall(true);
      long outage = System.nanoTime();
      Follower.await(() -> System.nanoTime() - outage > OUTAGE.toNanos() / 2);
      // One of them is removed while nothing answers.
      Editions removed = all.removeLast();
      long start = System.nanoTime();
      removed.discard();
      assertThat(Duration.ofNanos(System.nanoTime() - start)).isLessThan(Duration.ofMinutes(1));
      Follower.await(() -> System.nanoTime() - outage > OUTAGE.toNanos());
      assertThat(Thread.activeCount()).isLessThan(threads + INDEXES);
      assertThat(connections(server)).isLessThanOrEqualTo(2 * connections);
      assertThat(all)
          .allSatisfy(e -> assertThat(e.live().folder().snapshot().documents()).isEqualTo(50));

      try (Connection connection = TestServers.connect(server);
          Statement statement = connection.createStatement()) {
        statement.execute("UPDATE plant SET name = 'after' WHERE id = 7");
      }
      proxy.stall(false);
      awaitLive(all);
      for (Editions editions : all) {
        Follower.await(() -> editions.live().feed().status().changes() > 0);
        assertThat(editions.live().number()).isEqualTo(1);
      }
      Follower.await(
          () -> {
            try {
              return connections(server) <= connections;
            } catch (SQLException e) {
              throw new IllegalStateException(e);
            }
          });
      // A thread that gives a silent connection up may end after the connection.
      Follower.await(
          () -> Thread.activeCount() <= threads + 5,
          () -> "Too many threads: " + Thread.getAllStackTraces().keySet());
      assertThat(slots(server)).isZero();

      // Stopped while nothing answers.
      proxy.stall(true);
      start = System.nanoTime();
      Editions.closeAll(all);
      // A generous limit: the cost must not grow in proportion to the number of indexes.
      assertThat(Duration.ofNanos(System.nanoTime() - start)).isLessThan(Duration.ofMinutes(3));
    }
  }

  private static void awaitLive(List<Editions> all) throws InterruptedException {
    Follower.await(
        () ->
            all.stream().allMatch(e -> e.live().feed().status().phase() == FeedStatus.Phase.LIVE));
  }
}
