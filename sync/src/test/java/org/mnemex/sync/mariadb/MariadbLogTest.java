package org.mnemex.sync.mariadb;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/** What a server writes to its log, and what is missing there. */
class MariadbLogTest {
  private static final Duration LONG = Duration.ofMinutes(2);

  private SeedLots lots;
  private SourceDefinition.Server definition;
  private MariadbSource source;

  @BeforeEach
  void create() throws Exception {
    lots = SeedLots.create();
    definition = lots.definition;
    source = lots.source;
  }

  @Test
  void aTransactionTooLargeForOneBatchComesInPiecesAndAgainAfterACrash() throws Exception {
    Source.Capture capture = source.capture("large");
    Position start = capture.now();
    lots.run("INSERT INTO note SELECT seq, 1, concat('l', seq), 0, NULL FROM seq_1000_to_5999");
    Changes first = capture.after(start, 1500, LONG);
    assertThat(first.list()).hasSizeGreaterThanOrEqualTo(1500);
    assertThat(first.upTo()).isEqualTo(start);
    assertThat(first.complete()).isFalse();
    capture.close();
    try (Source.Capture again = source.capture("large")) {
      List<Change> all = new ArrayList<>();
      Position at = start;
      while (all.size() < 5000) {
        Changes changes = again.after(at, 1500, LONG);
        all.addAll(changes.list());
        at = changes.upTo();
      }
      assertThat(all.getLast().columns()).containsEntry("line", "l5999");
      assertThat(at.number()).isEqualTo(start.number() + 1);
    }
  }

  @Test
  void whatTheLogDoesNotTellNeedsANewBackfill() throws Exception {
    for (String sql :
        List.of(
            "TRUNCATE TABLE note",
            "ALTER TABLE note TRUNCATE PARTITION old",
            "/* x */ RENAME TABLE note TO noted; RENAME TABLE noted TO note",
            "RENAME TABLE note TO noted; ALTER TABLE noted RENAME note",
            "SET SESSION binlog_format = 'STATEMENT'; UPDATE note SET text = 'y'",
            "SET SESSION binlog_row_image = 'MINIMAL'; UPDATE note SET text = 'm' WHERE id = 3",
            "SET SESSION binlog_row_image = 'MINIMAL'; DELETE FROM note WHERE id = 3")) {
      lots.run(
          "INSERT INTO note VALUES (3, 1, 'c', 5, 'mid') ON DUPLICATE KEY UPDATE text = 'again'");
      try (Source.Capture capture = source.capture("gone")) {
        Position start = capture.now();
        lots.run(sql);
        assertThatThrownBy(() -> capture.after(start, 10, LONG))
            .as(sql)
            .isInstanceOf(PositionLostException.class);
      }
    }
  }

  /** Compressed rows cannot be read; they must not be passed over. */
  @Test
  void aCompressedLogNeedsANewBackfill() throws Exception {
    try (Source.Capture capture = source.capture("compressed")) {
      Position start = capture.now();
      lots.run("SET GLOBAL log_bin_compress = ON; SET GLOBAL log_bin_compress_min_len = 10");
      try {
        lots.run("UPDATE note SET text = repeat('moss ', 200)");
        assertThatThrownBy(() -> capture.after(start, 10, LONG))
            .isInstanceOf(PositionLostException.class)
            .hasMessageContaining("log_bin_compress");
        assertThat(source.requirements(SeedLots.SHAPE.watchedColumns()))
            .filteredOn(Requirement::isMissing)
            .extracting(Requirement::what)
            .containsExactly("the log is not compressed (log_bin_compress is 'ON')");
      } finally {
        lots.run(
            "SET GLOBAL log_bin_compress = OFF; SET GLOBAL log_bin_compress_min_len = DEFAULT");
      }
    }
  }

  /** The rows of a distributed transaction are seen when it is committed. */
  @Test
  void aDistributedTransactionIsFollowedToItsCommit() throws Exception {
    try (Source.Capture capture = source.capture("xa");
        Connection other = TestServers.connect(definition);
        Statement statement = other.createStatement()) {
      Position start = capture.now();
      statement.execute("CREATE DATABASE IF NOT EXISTS elsewhere");
      statement.execute("CREATE TABLE IF NOT EXISTS elsewhere.t (id INT)");
      for (String sql :
          List.of(
              "XA START 'far'",
              "INSERT INTO elsewhere.t VALUES (1)",
              "XA END 'far'",
              "XA PREPARE 'far'",
              "XA COMMIT 'far'",
              "XA START 'near'",
              "UPDATE note SET line = 'moved' WHERE id = 3",
              "XA END 'near'",
              "XA PREPARE 'near'")) {
        statement.execute(sql);
      }
      // Changes of others come through, and the position stays before what is only prepared.
      lots.run("UPDATE note SET text = 'z' WHERE id = 1");
      Changes changes = capture.after(start, 1, LONG);
      while (changes.list().isEmpty()) {
        changes = capture.after(changes.upTo(), 10, LONG);
      }
      assertThat(changes.list())
          .allSatisfy(c -> assertThat(c.columns()).containsEntry("line", "c"));
      Position before = changes.upTo();
      assertThatThrownBy(() -> source.capture("new").now())
          .isInstanceOf(SourceUnavailableException.class)
          .hasMessageContaining("XA RECOVER");
      statement.execute("XA COMMIT 'near'");
      // A reader that starts again there has not lost the rows.
      try (Source.Capture again = source.capture("again")) {
        List<Object> lines = new ArrayList<>();
        Position at = before;
        while (!lines.contains("moved")) {
          Changes more = again.after(at, 10, LONG);
          more.list().forEach(change -> lines.add(change.columns().get("line")));
          at = more.upTo();
        }
        assertThat(at.number()).isGreaterThan(before.number());
      }
      for (String sql :
          List.of(
              "XA START 'gone'",
              "UPDATE note SET line = 'never' WHERE id = 3",
              "XA END 'gone'",
              "XA PREPARE 'gone'",
              "XA ROLLBACK 'gone'")) {
        statement.execute(sql);
      }
      lots.run("UPDATE note SET text = 'last' WHERE id = 1");
      List<Object> lines = new ArrayList<>();
      Position at = before;
      while (!lines.contains("c")) {
        Changes more = capture.after(at, 10, LONG);
        more.list().forEach(change -> lines.add(change.columns().get("line")));
        at = more.upTo();
      }
      assertThat(lines).doesNotContain("never");
    }
  }

  @Test
  void aPurgedLogAndAnotherHistoryAreNoticed() throws Exception {
    try (Source.Capture capture = source.capture("purged")) {
      Position start = capture.now();
      lots.run("UPDATE note SET text = 'w'; FLUSH BINARY LOGS; UPDATE note SET text = 'x'");
      Changes changes = capture.after(start, 10, LONG);
      assertThat(changes.list()).isNotEmpty();
      lots.run("FLUSH BINARY LOGS; UPDATE note SET text = 'z'; FLUSH BINARY LOGS");
      capture.close();
      purge();
      assertThatThrownBy(() -> capture.after(start, 10, LONG))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("does not have the log");
      assertThatThrownBy(() -> capture.after(new Position(start.history(), 1L << 40), 10, LONG))
          .isInstanceOf(PositionLostException.class);
      assertThatThrownBy(() -> capture.after(new Position("wal-1", 1), 10, LONG))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("different kind of database");
    }
  }

  /** Removes all files of the log but the newest; one may be in use for a moment. */
  private void purge() throws SQLException {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      List<String> files = new ArrayList<>();
      do {
        if (!files.isEmpty()) {
          statement.execute("PURGE BINARY LOGS TO '" + files.getLast() + "'");
          files.clear();
        }
        try (ResultSet rows = statement.executeQuery("SHOW BINARY LOGS")) {
          while (rows.next()) {
            files.add(rows.getString(1));
          }
        }
      } while (files.size() > 1);
    }
  }
}
