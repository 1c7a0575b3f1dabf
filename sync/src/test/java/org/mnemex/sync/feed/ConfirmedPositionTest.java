package org.mnemex.sync.feed;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.atLeastOnce;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.Plants;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Shard;

/**
 * PostgreSQL forgets the log up to what was confirmed to it. A feed that is killed at any moment,
 * also while its edition is being filled, finds the log from its last commit on.
 */
class ConfirmedPositionTest {
  private static final int KILLS = 50;
  private static final int PLANTS = 400;

  @TempDir private Path folder;

  /** A clock that runs so fast that commits and confirmations, too, are met by kills. */
  private static final class Hurried extends Clock {
    private static final int TIMES = 30;
    private final Instant start = Instant.now();

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
      return start.plus(Duration.between(start, Instant.now()).multipliedBy(TIMES));
    }
  }

  @Test
  void nothingIsConfirmedThatAKillCouldUndo() throws Exception {
    SourceDefinition.Server definition = TestServers.newPostgres();
    AtomicBoolean done = new AtomicBoolean();
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      statement.execute("CREATE TABLE plant (id int PRIMARY KEY, name text)");
      statement.execute("CREATE TABLE noise (at timestamptz DEFAULT now())");
      statement.execute(
          "INSERT INTO plant SELECT i, 'fern ' || i FROM generate_series(1, " + PLANTS + ") i");
      // The server asks for an answer every half a second, which is when a driver confirms.
      statement.execute(
          "ALTER ROLE \"%s\" IN DATABASE \"%s\" SET wal_sender_timeout = '1s'"
              .formatted(definition.user(), definition.database()));
    }
    Thread noise =
        Thread.ofPlatform()
            .start(
                () -> {
                  try (Connection connection = TestServers.connect(definition);
                      Statement statement = connection.createStatement()) {
                    while (!done.get()) {
                      statement.execute("INSERT INTO noise DEFAULT VALUES");
                      TimeUnit.MILLISECONDS.sleep(1);
                    }
                  } catch (Exception e) {
                    throw new IllegalStateException(e);
                  }
                });
    Feed.Listener listener = mock(Feed.Listener.class);
    Random random = new Random(7);
    // Slow enough to be killed while filling, too.
    Pace slow = new Pace(5, 60, 100, Duration.ofMillis(20));
    try {
      for (int kill = 0; kill < KILLS; kill++) {
        run(definition, listener, slow, 100 + random.nextInt(900));
        verify(listener, never()).positionLost(any());
      }
      run(definition, listener, Pace.FREE, 5000);
      verify(listener, atLeastOnce()).caughtUp();
      verify(listener, never()).positionLost(any());
      try (EditionFolder edition = EditionFolder.open(folder, Plants.DEFINITION.schema())) {
        assertThat(edition.snapshot().documents()).isEqualTo(PLANTS);
      }
    } finally {
      done.set(true);
      noise.join();
    }
  }

  private void run(
      SourceDefinition.Server definition, Feed.Listener listener, Pace pace, int millis)
      throws Exception {
    try (EditionFolder edition = EditionFolder.open(folder, Plants.DEFINITION.schema())) {
      Feed feed =
          new Feed(
              new FeedSettings(
                  Plants.DEFINITION,
                  1,
                  new PostgresSource(definition),
                  "confirmed",
                  pace,
                  null,
                  Shard.WHOLE),
              edition,
              new InMemory.Records(),
              new Hurried(),
              listener);
      Thread running = Thread.ofPlatform().start(feed);
      running.join(Duration.ofMillis(millis));
      feed.stop();
      running.join();
      assertThat(feed.status().phase()).isNotEqualTo(FeedStatus.Phase.STOPPED);
      feed.abandon();
    }
  }
}
