package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mnemex.sync.FollowedDatabase;
import org.mnemex.sync.FollowedDatabase.Way;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;

/**
 * What a feed says of its truth, asked at any moment while rows change, of a table of its own, of
 * one that another index reads, and of one that nobody reads: never too much.
 */
class ClaimedTruthTest {
  private static final int ROUNDS = 60;
  private static final long OTHERS_PAUSE_NANOS = 1_000_000;

  @TempDir private Path folder;

  private static IndexDefinition over(String table) {
    return new IndexDefinition(
        table,
        "garden",
        new RecordShape(table, List.of("id"), null, List.of(), Set.of()),
        List.of(Shapes.field("name", "name")),
        "");
  }

  @ParameterizedTest
  @EnumSource
  void whatIsClaimedIsThere(Way way) throws Exception {
    FollowedDatabase database = new FollowedDatabase(way, folder);
    Source source = database.source;
    try (Connection connection = database.connect();
        Statement statement = connection.createStatement();
        Source.Capture asking = source.capture("asking")) {
      if (way == Way.SQLITE) {
        // So that those who read and write at once do not stop each other.
        statement.execute("PRAGMA journal_mode = WAL");
      }
      for (String table : List.of("plant", "lot", "visit")) {
        statement.execute("CREATE TABLE " + table + " (id bigint PRIMARY KEY, name varchar(50))");
      }
      Follower plants = Follower.start(over("plant"), source, folder.resolve("plants"));
      Follower lots = Follower.start(over("lot"), source, folder.resolve("lots"));
      AtomicBoolean over = new AtomicBoolean();
      CompletableFuture<Void> others =
          CompletableFuture.runAsync(() -> changeOthers(database, over));
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

  private static void changeOthers(FollowedDatabase database, AtomicBoolean over) {
    try (Connection connection = database.connect();
        Statement statement = connection.createStatement()) {
      for (int id = 1; !over.get(); id++) {
        statement.execute("INSERT INTO visit VALUES (%d, 'seen')".formatted(id));
        if (id % 3 == 0) {
          statement.execute("INSERT INTO lot VALUES (%d, 'of fern')".formatted(id));
        }
        // Leaves the lock of a file to others.
        LockSupport.parkNanos(OTHERS_PAUSE_NANOS);
      }
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  private static boolean isAfter(Instant claimed, Instant moment) {
    return claimed != null && claimed.isAfter(moment);
  }
}
