package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.sync.Plants;
import org.mnemex.sync.audit.AuditResult;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.SourceReader;
import org.mnemex.sync.sqlite.SqliteSource;

/** What outlives a restart, what is looked at again, and what a source keeps for whom. */
class FollowerTest {
  @TempDir private Path folder;
  private Path file;
  private SqliteSource source;
  private Follower follower;

  @BeforeEach
  void make() throws Exception {
    file = folder.resolve("garden.db");
    run(
        "CREATE TABLE plant (id INTEGER PRIMARY KEY, name TEXT)",
        "INSERT INTO plant VALUES (1, 'fern'), (2, 'moss'), (7, 'rose')");
    source =
        new SqliteSource(
            new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING));
  }

  @AfterEach
  void close() {
    if (follower != null) {
      follower.close();
    }
  }

  private void start() throws Exception {
    follower = Follower.start(Plants.DEFINITION, source, folder.resolve("index"));
  }

  private void run(String... statements) throws SQLException {
    try (Connection connection =
            DriverManager.getConnection("jdbc:sqlite:" + file + "?busy_timeout=10000");
        Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }

  @Test
  void whatWasAskedToBeReadAgainIsReadAfterARestart() throws Exception {
    start();
    follower.editions().pause(true);
    Follower.await(() -> follower.status().phase() == FeedStatus.Phase.PAUSED);
    Edition live = follower.live();
    live.folder().delete("7");
    live.folder().refresh(live.folder().snapshot().checkpoint());
    live.folder().commit();
    live.feed().readAgain(List.of(RecordKey.parse("7", 1)));
    follower.stop();
    follower.restart();
    Follower.await(() -> follower.documents() == 3);
    Follower.await(() -> follower.quarantine.asked("plants", 1, 10).isEmpty());
  }

  @Test
  void anAuditShowsWhatIsInQuarantineWithoutAReason() throws Exception {
    start();
    follower.stop();
    follower.quarantine.put("plants", 1, "7", "it could not be read once", Instant.now());
    follower.quarantine.put("plants", 1, "999", "it was deleted in the meantime", Instant.now());
    follower.restart();
    AuditResult found = follower.audit(true);
    assertThat(found.needless()).containsExactly("7", "999");
    assertThat(found.clean()).isFalse();
    assertThat(found.statement()).contains("0 in quarantine, 2 needlessly");
    Follower.await(() -> follower.quarantine.keys("plants", 1).isEmpty());
    assertThat(follower.audit(false).clean()).isTrue();
    assertThat(follower.documents()).isEqualTo(3);
  }

  /** Checks may take minutes, in which the feed may have stopped. */
  @Test
  void anEditionThatLagsAfterItsChecksIsNotPromoted() throws Exception {
    AtomicBoolean checked = new AtomicBoolean();
    follower =
        Follower.start(
            Plants.DEFINITION,
            source,
            folder.resolve("index"),
            (filled, live) -> {
              if (checked.getAndSet(true)) {
                return null;
              }
              filled.feed().pause(true);
              Follower.await(() -> filled.feed().phase() == FeedStatus.Phase.PAUSED);
              run("UPDATE plant SET name = 'changed while it was checked'");
              return null;
            });
    follower.build();
    Follower.await(() -> follower.editions().next() != null);
    Edition next = follower.editions().next();
    Follower.await(() -> next.feed().phase() == FeedStatus.Phase.PAUSED);
    assertThat(follower.live().number()).isEqualTo(1);
    assertThat(follower.editions().held()).isNull();
    next.feed().pause(false);
    follower.awaitTruth(2);
  }

  @Test
  void readersThatNobodyFeedsAreShownAndDropped() throws Exception {
    start();
    // As an installation leaves it whose records were lost.
    run("INSERT INTO mnemex_journal_reader VALUES ('plants/1@lost', 0)");
    run("UPDATE plant SET name = 'x'");
    follower.awaitTrue();
    Map<String, Long> kept =
        source.readers().stream()
            .collect(Collectors.toMap(SourceReader::name, SourceReader::retained));
    String own = follower.editions().reader(1);
    assertThat(kept).containsOnlyKeys(own, "plants/1@lost").containsEntry("plants/1@lost", 3L);
    String installation = own.substring(own.indexOf('@') + 1);
    // Another installation needs the journal: only what is ours goes.
    assertThat(source.removal(new OwnReaders(installation, Set.of())))
        .containsExactly("DELETE FROM mnemex_journal_reader WHERE reader = '" + own + "'");
    source.dropReader("plants/1@lost");
    assertThat(source.removal(new OwnReaders(installation, Set.of()))).hasSizeGreaterThan(5);
    // What is fed is not taken away either.
    assertThat(source.removal(new OwnReaders(installation, Set.of(own)))).isEmpty();
  }
}
