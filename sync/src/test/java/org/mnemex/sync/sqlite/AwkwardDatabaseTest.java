package org.mnemex.sync.sqlite;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.sync.OrderLines;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.scan.RecordScan;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.Source;

/** Names that need quoting, composite keys, a table joined to itself, keys that change. */
class AwkwardDatabaseTest {
  private static final RecordShape SHAPE =
      OrderLines.shape("\"Order Line\".\"group\" IS NOT 'hidden'");

  @TempDir private Path folder;
  private Path file;
  private SqliteSource source;

  @BeforeEach
  void make() throws Exception {
    file = folder.resolve("a wkward.db");
    run(
        """
        CREATE TABLE "Order Line" ("order" INTEGER, no TEXT, "parent no" TEXT, seed TEXT,
          "group" TEXT, PRIMARY KEY ("order", no))""",
        "CREATE TABLE \"Seed \"\"lot\"\"\" (code TEXT PRIMARY KEY, name TEXT, secret TEXT, image BLOB)",
        "CREATE TABLE note (id INTEGER PRIMARY KEY, \"order\" INTEGER, line TEXT, rank INT, text)",
        "INSERT INTO \"Seed \"\"lot\"\"\" VALUES ('S/1', 'Fern spores', 'hush', x'00')",
        "INSERT INTO \"Order Line\" VALUES (1, 'a/b', NULL, 'S/1', NULL), (1, 'c', 'a/b', NULL, 'x'),"
            + " (2, 'c', NULL, NULL, 'hidden'), (NULL, NULL, NULL, NULL, NULL)",
        "INSERT INTO note VALUES (1, 1, 'c', 1, 'low'), (2, 1, 'c', 9, 'high'), (3, 1, 'c', 5, 'mid')");
    source =
        new SqliteSource(
            new SourceDefinition.Sqlite("awkward", file, SourceDefinition.Following.PREPARING));
    source.prepare(SHAPE.watchedColumns());
  }

  private void run(String... statements) throws SQLException {
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
        Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }

  private Map<String, AssembledRecord> all() throws Exception {
    try (RecordReader reader = source.reader(SHAPE, Map.of("loud", "upper(\"select\".name)"))) {
      return reader.readAfter(null, 100).found().stream()
          .collect(Collectors.toMap(record -> record.key().text(), record -> record));
    }
  }

  @Test
  void recordsAreAssembledThroughJoinsOfAllKinds() throws Exception {
    Map<String, AssembledRecord> records = all();
    assertThat(records).containsOnlyKeys("1/a~1b", "1/c");
    Map<String, Object> content = records.get("1/c").content().columns();
    assertThat(content.get("parent")).asString().contains("a/b");
    assertThat(content.get("select")).isEqualTo(Map.of("code", "S/1", "name", "Fern spores"));
    assertThat(records.get("1/c").content().computed().get("loud")).isEqualTo("FERN SPORES");
    assertThat((List<?>) content.get("notes"))
        .extracting(note -> String.valueOf(((Map<?, ?>) note).get("text")))
        .containsExactly("high", "mid");
    assertThat(records.toString()).doesNotContain("hush");
  }

  @Test
  void aScanFindsEveryRecordOnceAndInOrder() throws Exception {
    run(
        "WITH RECURSIVE n(i) AS (SELECT 10 UNION ALL SELECT i + 1 FROM n WHERE i < 60)"
            + " INSERT INTO \"Order Line\" SELECT i / 7, 'l' || i, NULL, NULL, 'g' FROM n");
    List<String> inOrder;
    try (RecordReader reader = source.reader(SHAPE, Map.of())) {
      inOrder = keys(reader.readAfter(null, 100));
      assertThat(inOrder).hasSize(53);
      assertThat(reader.estimate()).isBetween(53L, 56L);
    }
    for (int size = 1; size <= 60; size += 4) {
      List<String> found = new ArrayList<>();
      try (RecordScan<List<String>> scan =
          new RecordScan<>(
              () -> source.reader(SHAPE, Map.of()),
              null,
              size,
              0,
              () -> 0,
              AwkwardDatabaseTest::keys,
              "test")) {
        RecordScan.Portion<List<String>> portion;
        do {
          portion = Objects.requireNonNull(scan.next(Duration.ofMinutes(2)));
          found.addAll(portion.made());
          assertThat(portion.rows()).isLessThanOrEqualTo(size);
        } while (!portion.isLast());
      }
      assertThat(found).as("portions of %d", size).isEqualTo(inOrder);
    }
  }

  private static List<String> keys(Records records) {
    return records.found().stream().map(record -> record.key().text()).toList();
  }

  /** Applies statements and gives the keys of the records that they affect. */
  private Set<String> affectedBy(String... statements) throws Exception {
    try (Source.Capture capture = source.capture("test");
        RecordReader reader = source.reader(SHAPE, Map.of())) {
      Position before = capture.now();
      run(statements);
      Changes changes = capture.after(before, 100, Duration.ofSeconds(20));
      return reader.affected(changes.list()).stream()
          .map(RecordKey::text)
          .collect(Collectors.toSet());
    }
  }

  @Test
  void changesAreFollowedBackToTheirRecords() throws Exception {
    assertThat(affectedBy("UPDATE \"Seed \"\"lot\"\"\" SET name = 'Moss'")).containsExactly("1/c");
    assertThat(affectedBy("UPDATE note SET text = 'x' WHERE id = 2")).containsExactly("1/c");
    assertThat(affectedBy("UPDATE note SET line = 'a/b' WHERE id = 3"))
        .containsExactlyInAnyOrder("1/c", "1/a~1b");
    assertThat(affectedBy("DELETE FROM note WHERE id = 1")).containsExactly("1/c");
    // A row that others point to affects itself and those.
    assertThat(affectedBy("UPDATE \"Order Line\" SET seed = NULL WHERE no = 'a/b'"))
        .containsExactlyInAnyOrder("1/a~1b", "1/c");
    assertThat(affectedBy("UPDATE \"Order Line\" SET no = 'd' WHERE no = 'c' AND \"order\" = 1"))
        .containsExactlyInAnyOrder("1/c", "1/d");
  }

  @Test
  void whatCannotBeReadIsSaidRecordByRecord() throws Exception {
    run("UPDATE note SET text = x'ff00' WHERE id = 2");
    try (RecordReader reader = source.reader(SHAPE, Map.of())) {
      Records records = reader.readAfter(null, 100);
      assertThat(records.unreadable())
          .containsExactly(
              Map.entry(
                  new RecordKey(List.of(1L, "c")),
                  "column 'notes.text' contains bytes instead of text"));
      assertThat(records.found()).hasSize(1);
    }
    RecordShape wrong =
        new RecordShape(
            "Order Line",
            List.of("order", "no"),
            null,
            List.of(Shapes.lookup("note", "note", Map.of("order", ColumnRef.of("order")))),
            Set.of());
    try (RecordReader reader = source.reader(wrong, Map.of())) {
      assertThat(reader.read(List.of(new RecordKey(List.of(1L, "a/b")))).unreadable().values())
          .contains("a join that is not 'many' found several rows; write 'many: true'");
    }
  }

  @Test
  void bytesAreNoKey() throws Exception {
    run(
        "CREATE TABLE bulb (id BLOB PRIMARY KEY, name TEXT)",
        "CREATE TABLE tuber (id PRIMARY KEY, name TEXT)",
        "INSERT INTO tuber VALUES (x'00ff', 'dahlia')");
    RecordShape bulbs = new RecordShape("bulb", List.of("id"), null, List.of(), Set.of());
    assertThatThrownBy(
            () -> source.check(new IndexDefinition("bulbs", "awkward", bulbs, List.of(), "")))
        .isInstanceOf(InvalidDefinitionException.class)
        .hasMessageContaining("column 'bulb.id' holds bytes");
    RecordShape tubers = new RecordShape("tuber", List.of("id"), null, List.of(), Set.of());
    try (RecordReader reader = source.reader(tubers, Map.of())) {
      assertThatThrownBy(() -> reader.readAfter(null, 100))
          .hasMessageContaining("key column 'tuber.id' holds bytes in some row");
    }
  }

  @Test
  void theJournalIsTrimmedForAllReadersAndALostPositionIsNoticed() throws Exception {
    try (Source.Capture fast = source.capture("fast");
        Source.Capture slow = source.capture("slow")) {
      Position start = fast.now();
      fast.done(start);
      slow.done(start);
      run("UPDATE note SET rank = rank + 1");
      Position end = fast.after(start, 100, Duration.ofSeconds(20)).upTo();
      assertThat(end.number() - start.number()).isEqualTo(3);
      fast.done(end);
      List<Change> stillThere = slow.after(start, 100, Duration.ZERO).list();
      assertThat(stillThere).hasSize(3);
      slow.leave();
      fast.done(end);
      assertThatThrownBy(() -> slow.after(start, 100, Duration.ZERO))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("trimmed to " + (end.number() - 1));
      assertThatThrownBy(() -> fast.after(new Position("other", 1), 1, Duration.ZERO))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("different database than before");
    }
  }

  @Test
  void withoutConsentNothingIsMadeAndTheStatementsAreSaid() throws Exception {
    Path other = folder.resolve("other.db");
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + other);
        Statement statement = connection.createStatement()) {
      statement.execute("CREATE TABLE t (id INTEGER PRIMARY KEY)");
    }
    SqliteSource asking =
        new SqliteSource(
            new SourceDefinition.Sqlite("other", other, SourceDefinition.Following.ASKING));
    assertThatThrownBy(() -> asking.prepare(Map.of("t", Set.of("id"))))
        .isInstanceOfSatisfying(
            NotPreparedException.class,
            e -> {
              assertThat(e).hasMessageContaining("prepare: automatic");
              try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + other);
                  Statement statement = connection.createStatement()) {
                assertThat(asking.catalogue().tables()).containsOnlyKeys("t");
                // What is said can be run as it stands, and is enough.
                for (String sql : e.statements()) {
                  statement.execute(sql);
                }
                asking.prepare(Map.of("t", Set.of("id")));
              } catch (Exception failure) {
                throw new AssertionError(failure);
              }
            });
  }
}
