package org.mnemex.sync.mariadb;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/** Types and character sets of a real server, and what happens to its connections. */
class MariadbSourceTest {
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
  void everyStatementEndsAndTheFirstCountIsTheCatalogues() throws Exception {
    lots.run("INSERT INTO note SELECT seq, 1, concat('e', seq), 0, NULL FROM seq_10000_to_14999");
    lots.run("ANALYZE TABLE note");
    try (Connection connection = source.connect();
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT @@max_statement_time")) {
      rows.next();
      assertThat(rows.getInt(1)).isEqualTo(110);
      assertThat(source.estimate(connection, "note")).isBetween(3_000L, 8_000L);
    }
  }

  @Test
  void recordsOfAllTypesAreAssembled() throws Exception {
    try (RecordReader reader =
        source.reader(SeedLots.SHAPE, Map.of("loud", "upper(lot.name) || '!'"))) {
      Map<String, AssembledRecord> records =
          reader.readAfter(null, 100).found().stream()
              .collect(Collectors.toMap(record -> record.key().text(), record -> record));
      assertThat(records).containsOnlyKeys("4000000000/a~1b", "1/c");
      Map<String, Object> content = records.get("4000000000/a~1b").content().columns();
      assertThat(content.get("lot"))
          .isEqualTo(
              Map.ofEntries(
                  Map.entry("code", "Mühle"),
                  Map.entry("name", "Fern spores"),
                  Map.entry("price", "2.50"),
                  Map.entry("sown", "2026-05-04T08:00:00.25Z"),
                  Map.entry("sorted", "2026-05-04 10:00:00"),
                  Map.entry("mood", "wild"),
                  Map.entry("tags", "a,b"),
                  Map.entry("more", "{\"a\": 1}"),
                  Map.entry("yes", 1L),
                  Map.entry("bits", true),
                  Map.entry("mask", 513L),
                  Map.entry("id", "0b0e9d2e-58b8-4bd5-a1c7-6a3f3d5c2b11"),
                  Map.entry("big", "18446744073709551615"),
                  Map.entry("vintage", "1999")));
      assertThat(records.get("4000000000/a~1b").content().computed().get("loud"))
          .isEqualTo("FERN SPORES!");
      assertThat((List<?>) records.get("1/c").content().columns().get("notes"))
          .extracting(note -> String.valueOf(((Map<?, ?>) note).get("text")))
          .containsExactly("high", "mid");
      assertThat(records.toString()).doesNotContain("hush");
      assertThat(reader.read(List.of(RecordKey.parse("1/c", 2))).found()).hasSize(1);
    }
    assertThat(source.catalogue().tables())
        .containsOnlyKeys("seed lot", "order line", "note", "seen");
  }

  /** A day that no calendar has stops only its own record, if a field needs the day. */
  @Test
  void incompleteDaysAreReadAsTheyAre() throws Exception {
    lots.run(
        "CREATE TABLE sown (id INT PRIMARY KEY, day DATE, at DATETIME(2), noted TIMESTAMP NULL)");
    lots.run(
        "SET STATEMENT sql_mode = '' FOR INSERT INTO sown VALUES (1, '2026-00-10', '2026-00-10 10:00:00.5', NULL),"
            + " (2, '0000-00-00', '0000-00-00', '0000-00-00'), (3, '2026-03-29', '2026-09-27 03:00', NULL)");
    try (RecordReader reader =
        source.reader(
            new RecordShape("sown", List.of("id"), null, List.of(), Set.of()), Map.of())) {
      assertThat(reader.readAfter(null, 10).found())
          .extracting(record -> record.content().columns())
          .containsExactly(
              Map.of("id", 1L, "day", "2026-00-10", "at", "2026-00-10 10:00:00.5"),
              Map.of(
                  "id", 2L,
                  "day", "0000-00-00",
                  "at", "0000-00-00 00:00:00",
                  "noted", "0000-00-00T00:00:00Z"),
              Map.of("id", 3L, "day", "2026-03-29", "at", "2026-09-27 03:00:00"));
    }
  }

  /** Columns of every type that may relate rows must be told by the log as a query tells them. */
  @Test
  void theLogTellsKeysAsQueriesDo() throws Exception {
    Map<String, String> values =
        Map.ofEntries(
            Map.entry("a TINYINT UNSIGNED", "200"),
            Map.entry("b SMALLINT", "-5"),
            Map.entry("c MEDIUMINT UNSIGNED", "16000000"),
            Map.entry("d INT UNSIGNED", "4000000000"),
            Map.entry("e BIGINT UNSIGNED", "18446744073709551615"),
            Map.entry("f BIGINT", "-9000000000000000000"),
            Map.entry("g DECIMAL(20,4)", "-12345678901234.5"),
            Map.entry("h CHAR(10) CHARACTER SET utf16", "'Ж€'"),
            Map.entry("i VARCHAR(10) CHARACTER SET cp1251", "'Журнал'"),
            Map.entry("j VARCHAR(10) CHARACTER SET sjis", "'日本'"),
            Map.entry("k TEXT CHARACTER SET utf8mb4", "'🌿'"),
            Map.entry("l ENUM('wild', 'tame')", "'tame'"),
            Map.entry("m DATE", "'2026-02-28'"),
            Map.entry("n DATETIME(2)", "'2026-02-28 23:59:59.12'"),
            Map.entry("o TIMESTAMP(6) NULL", "'2026-02-28 23:59:59.000001'"),
            Map.entry("p YEAR", "2026"),
            Map.entry("q VARBINARY(10)", "'xyz'"),
            Map.entry("r SET('u', 'v')", "'u,v'"),
            Map.entry("s BIT(3)", "b'101'"),
            Map.entry("t DATETIME", "'1969-12-31 23:59:59'"));
    lots.run("CREATE TABLE typed (id INT PRIMARY KEY, " + String.join(", ", values.keySet()) + ")");
    Set<String> watched =
        values.keySet().stream()
            .map(column -> column.substring(0, 1))
            .filter(column -> !Set.of("q", "r", "s").contains(column))
            .collect(Collectors.toSet());
    watched.add("id");
    source.prepare(Map.of("typed", watched));
    assertThatThrownBy(() -> source.prepare(Map.of("typed", Set.of("q"))))
        .isInstanceOf(NotPreparedException.class)
        .hasMessageContaining("relate rows by another column");
    try (Source.Capture capture = source.capture("types");
        RecordReader reader =
            source.reader(
                new RecordShape("typed", List.of("id"), null, List.of(), Set.of()), Map.of())) {
      Position start = capture.now();
      lots.run("INSERT INTO typed VALUES (1, " + String.join(", ", values.values()) + ")");
      Map<String, Object> logged = capture.after(start, 10, LONG).list().getFirst().columns();
      Map<String, Object> read =
          new HashMap<>(reader.readAfter(null, 10).found().getFirst().content().columns());
      read.keySet().retainAll(watched);
      assertThat(logged).isEqualTo(read).hasSize(watched.size());
    }
  }

  private Set<String> affectedBy(String sql) throws Exception {
    try (Source.Capture capture = source.capture("affected");
        RecordReader reader = source.reader(SeedLots.SHAPE, Map.of())) {
      Position before = capture.now();
      lots.run(sql);
      return reader.affected(capture.after(before, 1000, LONG).list()).stream()
          .map(RecordKey::text)
          .collect(Collectors.toSet());
    }
  }

  @Test
  void changesAreFollowedBackToTheirRecords() throws Exception {
    assertThat(affectedBy("UPDATE \"seed lot\" SET name = 'Moss'"))
        .containsExactly("4000000000/a~1b");
    assertThat(affectedBy("UPDATE note SET text = 'x' WHERE id = 102")).containsExactly("1/c");
    assertThat(
            affectedBy(
                "UPDATE note SET id = 7, \"order\" = 4000000000, line = 'a/b' WHERE id = 102"))
        .containsExactlyInAnyOrder("1/c", "4000000000/a~1b");
    assertThat(affectedBy("DELETE FROM note WHERE id = 1")).containsExactly("1/c");
    assertThat(affectedBy("UPDATE \"order line\" SET no = 'd' WHERE no = 'c' AND \"order\" = 1"))
        .containsExactlyInAnyOrder("1/c", "1/d");
    // Columns come and go while the log is followed.
    assertThat(
            affectedBy(
                "ALTER TABLE note ADD extra INT FIRST; ALTER TABLE note DROP \"rank\";"
                    + " UPDATE note SET extra = 1 WHERE id = 7"))
        .containsExactly("4000000000/a~1b");
  }

  @Test
  void whatIsMissingIsSaidWithTheStatementsThatMakeIt() throws Exception {
    lots.run("CREATE USER IF NOT EXISTS 'weak one'@'%' IDENTIFIED BY 'w'");
    lots.run("GRANT SELECT ON \"" + definition.database() + "\".note TO 'weak one'@'%'");
    MariadbSource weak =
        new MariadbSource(
            new SourceDefinition.Server(
                "weak",
                SourceDefinition.Kind.MARIADB,
                "127.0.0.1",
                definition.port(),
                definition.database(),
                "",
                "weak one",
                new Secret("w"),
                SourceDefinition.Following.PREPARING));
    assertThat(weak.requirements(SeedLots.SHAPE.watchedColumns()))
        .filteredOn(Requirement::isMissing)
        .flatExtracting(Requirement::statements)
        .containsExactly(
            "GRANT REPLICATION SLAVE ON *.* TO 'weak one'@'%';",
            "GRANT BINLOG MONITOR ON *.* TO 'weak one'@'%';",
            "GRANT SELECT ON `%s`.`order line` TO 'weak one'@'%%';"
                .formatted(definition.database()),
            "GRANT SELECT ON `%s`.`seed lot` TO 'weak one'@'%%';".formatted(definition.database()));
    lots.run("DROP USER 'weak one'@'%'");
    assertThatThrownBy(weak::catalogue)
        .isInstanceOf(SourceUnavailableException.class)
        .hasMessageContaining("Access denied")
        .hasMessageNotContaining("password=");
    lots.run("SET GLOBAL binlog_row_metadata = 'MINIMAL'");
    try {
      assertThatThrownBy(() -> source.prepare(SeedLots.SHAPE.watchedColumns()))
          .isInstanceOf(NotPreparedException.class)
          .hasMessageContaining("SET GLOBAL binlog_row_metadata = 'FULL'");
    } finally {
      lots.run("SET GLOBAL binlog_row_metadata = 'FULL'");
    }
  }

  @Test
  void adviceNamesMissingIndexesAndForeignKeysThatActInSilence() throws Exception {
    lots.run(
        "ALTER TABLE \"order line\" ADD FOREIGN KEY kept (seed) REFERENCES \"seed lot\" (code) ON DELETE SET NULL");
    assertThat(source.advice(SeedLots.SHAPE))
        .filteredOn(advice -> !advice.met())
        .extracting(Requirement::what)
        .satisfiesExactly(
            what -> assertThat(what).contains("table 'note' has an index on line, order"),
            what -> assertThat(what).contains("foreign key", "ON DELETE SET NULL"));
    assertThat(
            new MariadbSource(TestServers.followed(definition, new SourceDefinition.Journal()))
                .advice(SeedLots.SHAPE))
        .extracting(Requirement::what)
        .anySatisfy(what -> assertThat(what).contains("DELETE, not by TRUNCATE"));
  }

  @Test
  void afterKilledConnectionsAndARestartNothingIsMissing() throws Exception {
    try (Source.Capture capture = source.capture("cut")) {
      Position start = capture.now();
      lots.run("UPDATE note SET text = 'a' WHERE id = 1");
      Position at = capture.after(start, 10, LONG).upTo();
      lots.run("KILL USER " + definition.user());
      lots.run("UPDATE \"order line\" SET \"group\" = 'y' WHERE no = 'c' AND \"order\" = 1");
      Changes changes = again(capture, at, 100);
      assertThat(changes.list()).extracting(Change::table).containsExactly("order line");
      TestServers.mariadb().kill();
      assertThatThrownBy(() -> again(capture, changes.upTo(), 1))
          .isInstanceOf(SourceUnavailableException.class)
          .hasMessageContaining("127.0.0.1");
      TestServers.mariadb().startAgain();
      lots.run("DELETE FROM note WHERE id = 1");
      assertThat(again(capture, changes.upTo(), 100).list())
          .extracting(Change::table)
          .containsExactly("note");
    }
  }

  /** Tries as a feed does; a server that is coming back refuses for a while. */
  private static Changes again(Source.Capture capture, Position at, int tries) throws Exception {
    for (int i = 1; ; i++) {
      try {
        return capture.after(at, 10, LONG);
      } catch (SourceUnavailableException e) {
        if (i == tries) {
          throw e;
        }
        Thread.sleep(100);
      }
    }
  }
}
