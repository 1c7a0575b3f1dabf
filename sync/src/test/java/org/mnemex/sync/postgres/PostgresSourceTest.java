package org.mnemex.sync.postgres;

import static java.nio.charset.StandardCharsets.UTF_8;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.OrderLines;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Blob;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;
import org.mnemex.sync.source.SourceUnavailableException;

/** A database nobody would want, and what happens to its log and its connections. */
class PostgresSourceTest {
  private static final Duration LONG = Duration.ofMinutes(2);

  private static final RecordShape SHAPE =
      OrderLines.shape("\"Order Line\".\"group\" IS DISTINCT FROM 'hidden'");

  private SourceDefinition.Server definition;
  private PostgresSource source;

  @BeforeEach
  void make() throws Exception {
    definition = TestServers.newPostgres();
    run(
        """
        CREATE TYPE mood AS ENUM ('wild', 'tame');
        CREATE TABLE "Seed ""lot""\" (code uuid PRIMARY KEY, name text, secret text, image bytea,
          price numeric(8,2), sown timestamptz, tags text[], mood mood, more jsonb, letter char(4));
        CREATE TABLE "Order Line" ("order" int, no text, "parent no" text, seed uuid,
          "group" text, PRIMARY KEY ("order", no));
        CREATE TABLE note (id bigint, "order" int, line text, rank int, text text) PARTITION BY RANGE (id);
        CREATE TABLE note_old PARTITION OF note FOR VALUES FROM (0) TO (100);
        CREATE TABLE note_new PARTITION OF note FOR VALUES FROM (100) TO (1000000);
        CREATE VIEW seen AS SELECT * FROM note;
        INSERT INTO "Seed ""lot""\" VALUES ('0b0e9d2e-58b8-4bd5-a1c7-6a3f3d5c2b11', 'Fern spores', 'hush',
          'x', 2.50, '2026-05-04 10:00:00+02', '{a,"b c"}', 'wild', '{"a": 1}', 'xy');
        INSERT INTO "Order Line" VALUES (1, 'a/b', NULL, '0b0e9d2e-58b8-4bd5-a1c7-6a3f3d5c2b11', NULL),
          (1, 'c', 'a/b', NULL, 'x'), (2, 'c', NULL, NULL, 'hidden');
        INSERT INTO note VALUES (1, 1, 'c', 1, 'low'), (102, 1, 'c', 9, 'high'), (3, 1, 'c', 5, 'mid');
        """);
    source = new PostgresSource(definition);
    source.prepare(SHAPE.watchedColumns());
  }

  private void run(String sql) throws SQLException {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  private String ask(String sql) throws SQLException {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(sql)) {
      return rows.next() ? String.valueOf(rows.getString(1)) : "";
    }
  }

  /** Everything that was committed before this was called. */
  private List<Change> drain(Source.Capture capture, Position from) throws Exception {
    run("INSERT INTO \"Order Line\" VALUES (999, 'end')");
    List<Change> all = new ArrayList<>();
    Position at = from;
    while (all.isEmpty() || !Long.valueOf(999).equals(all.getLast().columns().get("order"))) {
      Changes changes = capture.after(at, 1000, LONG);
      all.addAll(changes.list());
      at = changes.upTo();
    }
    return all.subList(0, all.size() - 1);
  }

  @Test
  void everyStatementEndsAndTheFirstCountIsTheCatalogues() throws Exception {
    run("INSERT INTO \"Order Line\" SELECT 9, i::text FROM generate_series(1, 5000) i; ANALYZE");
    try (Connection connection = source.connect();
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SHOW statement_timeout")) {
      rows.next();
      assertThat(rows.getString(1)).isEqualTo("110s");
      assertThat(source.estimate(connection, "Order Line")).isBetween(4_000L, 6_000L);
    }
  }

  @Test
  void recordsOfAllTypesAreAssembledThroughJoinsOfAllKinds() throws Exception {
    try (RecordReader reader = source.reader(SHAPE, Map.of("loud", "upper(\"select\".name)"))) {
      Map<String, AssembledRecord> records =
          reader.readAfter(null, 100).found().stream()
              .collect(Collectors.toMap(record -> record.key().text(), record -> record));
      assertThat(records).containsOnlyKeys("1/a~1b", "1/c");
      Map<String, Object> content = records.get("1/c").content().columns();
      assertThat(content.get("select"))
          .isEqualTo(
              Map.of(
                  "code", "0b0e9d2e-58b8-4bd5-a1c7-6a3f3d5c2b11",
                  "name", "Fern spores",
                  "price", "2.50",
                  "sown", "2026-05-04T08:00:00Z",
                  "tags", List.of("a", "b c"),
                  "mood", "wild",
                  "more", "{\"a\": 1}",
                  "letter", "xy"));
      assertThat(records.get("1/c").content().computed().get("loud")).isEqualTo("FERN SPORES");
      assertThat((List<?>) content.get("notes"))
          .extracting(note -> String.valueOf(((Map<?, ?>) note).get("text")))
          .containsExactly("high", "mid");
      assertThat(records.toString()).doesNotContain("hush");
      assertThat(reader.read(List.of(new RecordKey(List.of(1L, "c")))).found()).hasSize(1);
      // A key as somebody typed it.
      assertThat(reader.read(List.of(RecordKey.parse("1/a~1b", 2))).found()).hasSize(1);
    }
    assertThat(source.catalogue().tables())
        .containsOnlyKeys("Order Line", "Seed \"lot\"", "note", "seen");
  }

  @Test
  void valuesStayTheSameHoweverOftenTheyAreReadAndWhereverTheyComeFrom() throws Exception {
    Map<String, String> types =
        Map.of(
            "d", "double precision",
            "r", "real",
            "p", "point",
            "z", "time with time zone",
            "v", "interval",
            "s", "timestamptz[]",
            "t", "timestamp[]",
            "g", "date[][]",
            "f", "double precision[]",
            "n", "numeric(8, 2)[]");
    String columns =
        types.entrySet().stream()
            .map(column -> column.getKey() + " " + column.getValue())
            .collect(Collectors.joining(", "));
    run(
        "CREATE TABLE reading (id double precision PRIMARY KEY, file bytea, %s)"
            .formatted(columns));
    RecordShape shape =
        new RecordShape("reading", List.of("id"), null, List.of(), Set.of())
            .withFiles(Set.of("reading.file"));
    Map<String, Set<String>> watched = Map.of("reading", plus(types.keySet(), "id"));
    source.prepare(watched);
    try (Source.Capture capture = source.capture("reading", watched);
        RecordReader reader = source.reader(shape, Map.of())) {
      Position start = capture.now();
      run(
          """
          INSERT INTO reading (id, file, d, r, p, z, v, s, t, g, f, n) VALUES (45, 'moss', 1e20, 45, '(1,2.5)',
            '10:00:00+02', '1 day 2 hours', '{2026-05-04 10:00:00+02,NULL}',
            '{2026-05-04 10:00:00.250}', '{{2026-05-04},{2026-05-05}}', '{1,2.5}', '{1.50}')
          """);
      Change logged = capture.after(start, 10, LONG).list().getFirst();
      Map<String, Object> expected = new HashMap<>();
      for (String column : List.of("id", "d", "r", "p", "z", "v")) {
        expected.put(column, logged.columns().get(column));
      }
      expected.put("s", List.of("2026-05-04T08:00:00Z"));
      expected.put("t", List.of("2026-05-04 10:00:00.25"));
      expected.put("g", List.of("2026-05-04", "2026-05-05"));
      expected.put("f", List.of(1.0, 2.5));
      expected.put("n", List.of("1.50"));
      for (int time = 0; time < 12; time++) {
        AssembledRecord read = reader.read(List.of(RecordKey.parse("45", 1))).found().getFirst();
        assertThat(read.key().text()).as("reading %d", time).isEqualTo("45");
        Map<String, Object> values = new HashMap<>(read.content().columns());
        Blob file = (Blob) values.remove("file");
        assertThat(file.bytes()).as("reading %d", time).asString(UTF_8).isEqualTo("moss");
        assertThat(values).as("reading %d", time).isEqualTo(expected);
      }
      capture.leave();
    }
  }

  private static Set<String> plus(Set<String> names, String another) {
    return Stream.concat(names.stream(), Stream.of(another)).collect(Collectors.toSet());
  }

  private Set<String> affectedBy(String sql) throws Exception {
    try (Source.Capture capture = source.capture("affected", SHAPE.watchedColumns());
        RecordReader reader = source.reader(SHAPE, Map.of())) {
      Position before = capture.now();
      run(sql);
      Set<String> keys =
          reader.affected(capture.after(before, 1000, LONG).list()).stream()
              .map(RecordKey::text)
              .collect(Collectors.toSet());
      capture.leave();
      return keys;
    }
  }

  @Test
  void changesAreFollowedBackToTheirRecords() throws Exception {
    assertThat(affectedBy("UPDATE \"Seed \"\"lot\"\"\" SET name = 'Moss'")).containsExactly("1/c");
    // In a partition, and from one partition to the other.
    assertThat(affectedBy("UPDATE note SET text = 'x' WHERE id = 102")).containsExactly("1/c");
    assertThat(affectedBy("UPDATE note SET id = 7, line = 'a/b' WHERE id = 102"))
        .containsExactlyInAnyOrder("1/c", "1/a~1b");
    assertThat(affectedBy("DELETE FROM note WHERE id = 1")).containsExactly("1/c");
    assertThat(affectedBy("UPDATE \"Order Line\" SET seed = NULL WHERE no = 'a/b'"))
        .containsExactlyInAnyOrder("1/a~1b", "1/c");
    assertThat(affectedBy("UPDATE \"Order Line\" SET no = 'd' WHERE no = 'c' AND \"order\" = 1"))
        .containsExactlyInAnyOrder("1/c", "1/d");
    // Columns come and go while the log is followed.
    assertThat(
            affectedBy(
                "DROP VIEW seen; ALTER TABLE note ADD extra int; ALTER TABLE note DROP rank;"
                    + " UPDATE note SET extra = 1 WHERE id = 7"))
        .containsExactly("1/a~1b");
  }

  @Test
  void whatIsMissingIsSaidWithTheStatementsThatMakeIt() throws Exception {
    run("CREATE TABLE bare (id int, word text)");
    Map<String, Set<String>> wanted = Map.of("bare", Set.of("id"));
    PostgresSource asking = other();
    assertThatThrownBy(() -> asking.prepare(wanted))
        .isInstanceOfSatisfying(
            NotPreparedException.class,
            e -> {
              assertThat(e.statements())
                  .containsExactly(
                      "CREATE PUBLICATION \"mnemex_other\" FOR TABLE \"public\".\"bare\" WITH"
                          + " (publish_via_partition_root = true);",
                      "ALTER TABLE \"public\".\"bare\" REPLICA IDENTITY FULL;");
              try {
                for (String sql : e.statements()) {
                  run(sql);
                }
                asking.prepare(wanted);
                assertThat(asking.requirements(wanted)).allMatch(Requirement::met);
              } catch (Exception failure) {
                throw new AssertionError(failure);
              }
            });
    run("CREATE ROLE \"Weak one\" LOGIN PASSWORD 'w'");
    PostgresSource weak = weak("public");
    assertThat(weak.requirements(wanted))
        .filteredOn(
            requirement ->
                !requirement.met() && requirement.kind() == Requirement.Kind.ADMINISTRATIVE)
        .flatExtracting(Requirement::statements)
        .containsExactly(
            "ALTER ROLE \"Weak one\" REPLICATION;",
            "GRANT SELECT ON \"public\".\"bare\" TO \"Weak one\";");
    run("CREATE SCHEMA shed; CREATE TABLE shed.tool (id int)");
    assertThat(weak("shed").requirements(Map.of("tool", Set.of("id"))))
        .filteredOn(requirement -> !requirement.met())
        .flatExtracting(Requirement::statements)
        .containsExactly(
            "ALTER ROLE \"Weak one\" REPLICATION;",
            "GRANT USAGE ON SCHEMA \"shed\" TO \"Weak one\";",
            "GRANT SELECT ON \"shed\".\"tool\" TO \"Weak one\";",
            "CREATE PUBLICATION \"mnemex_weak\" FOR TABLE \"shed\".\"tool\" WITH"
                + " (publish_via_partition_root = true);",
            "ALTER TABLE \"shed\".\"tool\" REPLICA IDENTITY FULL;");
    assertThat(weak("shet").requirements(Map.of()))
        .filteredOn(Requirement::isMissing)
        .last()
        .satisfies(
            requirement -> {
              assertThat(requirement.what()).isEqualTo("the database has a schema 'shet'");
              assertThat(requirement.statements().getFirst())
                  .endsWith("of the source: public, shed");
            });
    run("DROP ROLE \"Weak one\"");
    assertThatThrownBy(weak::catalogue)
        .isInstanceOf(SourceUnavailableException.class)
        .hasMessageContaining("Weak one")
        .hasMessageNotContaining("password=");
  }

  private PostgresSource weak(String schema) {
    return source(
        "weak", schema, "Weak one", new Secret("w"), SourceDefinition.Following.PREPARING);
  }

  private PostgresSource other() {
    return source(
        "other",
        "public",
        definition.user(),
        definition.password(),
        SourceDefinition.Following.ASKING);
  }

  /** Another source over the same database. */
  private PostgresSource source(
      String name,
      String schema,
      String user,
      Secret password,
      SourceDefinition.Following following) {
    return new PostgresSource(
        new SourceDefinition.Server(
            name,
            SourceDefinition.Kind.POSTGRES,
            "127.0.0.1",
            definition.port(),
            definition.database(),
            schema,
            user,
            password,
            following));
  }

  @Test
  void whatAnotherSourceOverTheSameDatabaseReadsByIsNotRemoved() throws Exception {
    try (Source.Capture capture = source.capture("plants/1@here", SHAPE.watchedColumns())) {
      capture.now();
    }
    String slot = source.readerName("plants/1@here");
    while (source.readers().stream().anyMatch(SourceReader::active)) {
      Thread.sleep(20);
    }
    assertThat(other().removal(new OwnReaders("here", Set.of("plants/1@here"))))
        .noneMatch(statement -> statement.contains(slot));
    assertThat(new PostgresSource(definition).removal(new OwnReaders("here", Set.of())))
        .anyMatch(statement -> statement.contains(slot));
    source.dropReader(slot);
  }

  @Test
  void aTransactionTooLargeForOneBatchComesInPiecesAndAgainAfterACrash() throws Exception {
    Position start;
    Source.Capture capture = source.capture("large", SHAPE.watchedColumns());
    start = capture.now();
    run("INSERT INTO note SELECT i, 1, 'l' || i, 0, NULL FROM generate_series(1000, 5999) i");
    List<String> lines = new ArrayList<>();
    while (lines.size() < 3000) {
      // A server that is slow to send it ends a piece early.
      Changes piece = capture.after(start, 1500, LONG);
      assertThat(piece.list()).hasSizeLessThanOrEqualTo(1500);
      assertThat(piece.upTo()).isEqualTo(start);
      piece.list().forEach(change -> lines.add(String.valueOf(change.columns().get("line"))));
    }
    assertThat(lines)
        .isEqualTo(IntStream.range(0, lines.size()).mapToObj(i -> "l" + (1000 + i)).toList());
    capture.close();
    try (Source.Capture again = source.capture("large", SHAPE.watchedColumns())) {
      assertThat(drain(again, start)).hasSize(5000);
      again.leave();
    }
    assertThat(ask("SELECT count(*) FROM pg_replication_slots WHERE slot_name LIKE '%large'"))
        .isEqualTo("0");
  }

  @Test
  void whatIsDoneIsGivenBackToTheServerAndALostSlotIsNoticed() throws Exception {
    try (Source.Capture capture = source.capture("slot", SHAPE.watchedColumns())) {
      Position start = capture.now();
      run("UPDATE note SET rank = 2 WHERE id = 1");
      Position end = capture.after(start, 10, LONG).upTo();
      capture.done(end);
      assertThatThrownBy(() -> askUntilRefused(capture, start))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("was moved to");
      assertThatThrownBy(() -> capture.after(new Position("wal-1", 1), 10, Duration.ZERO))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("different database system");
      capture.leave();
      assertThatThrownBy(() -> capture.after(end, 10, Duration.ZERO))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("is gone");
    }
  }

  /** What is done is confirmed a moment later. */
  private static void askUntilRefused(Source.Capture capture, Position position) throws Exception {
    long deadline = System.nanoTime() + LONG.toNanos();
    while (System.nanoTime() < deadline) {
      capture.after(position, 10, Duration.ofMillis(1));
    }
  }

  @Test
  void aTruncatedTableNeedsANewBackfill() throws Exception {
    try (Source.Capture capture = source.capture("truncated", SHAPE.watchedColumns())) {
      Position start = capture.now();
      run("TRUNCATE note");
      assertThatThrownBy(() -> capture.after(start, 10, LONG))
          .isInstanceOf(PositionLostException.class)
          .hasMessage("table 'note' was truncated");
      capture.leave();
    }
  }

  @Test
  void afterKilledConnectionsAndARestartNothingIsMissing() throws Exception {
    try (Source.Capture capture = source.capture("cut", SHAPE.watchedColumns())) {
      Position start = capture.now();
      run("UPDATE note SET rank = 2 WHERE id = 1");
      Position at = capture.after(start, 10, LONG).upTo();
      run(
          "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'mnemex'"
              + " AND datname = current_database()");
      run("UPDATE \"Order Line\" SET \"group\" = 'y' WHERE no = 'c' AND \"order\" = 1");
      Changes changes = again(capture, at);
      assertThat(changes.list()).extracting(Change::table).containsExactly("Order Line");
      TestServers.postgres().kill();
      assertThatThrownBy(() -> again(capture, changes.upTo(), 1))
          .isInstanceOf(SourceUnavailableException.class)
          .hasMessageContaining("127.0.0.1");
      TestServers.postgres().startAgain();
      run("DELETE FROM note WHERE id = 1");
      assertThat(again(capture, changes.upTo()).list())
          .extracting(Change::table)
          .containsExactly("note");
      capture.leave();
    }
  }

  private static Changes again(Source.Capture capture, Position at) throws Exception {
    return again(capture, at, 100);
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

  @Test
  void aStatementThatIsRefusedIsNamedWithWhatIsLeft() throws Exception {
    PostgresSource poor = new PostgresSource(TestServers.asPoorUser(definition));
    run("CREATE TABLE unseen (id int PRIMARY KEY); GRANT SELECT ON unseen TO poor");
    assertThatThrownBy(() -> poor.make(Map.of("unseen", Set.of("id"))))
        .isInstanceOf(NotPreparedException.class)
        .hasMessageContaining("refused a statement: ERROR: must be owner of publication")
        .hasMessageContaining(
            "Nothing was changed in it. An administrator has to run:\nALTER PUBLICATION");
  }

  @Test
  void aLogThatEndsBeforeThePositionBelongsToAnOlderCopy() throws Exception {
    try (Source.Capture capture = source.capture("older", SHAPE.watchedColumns())) {
      Position now = capture.now();
      assertThatThrownBy(
              () ->
                  capture.after(
                      new Position(now.history(), now.number() + (1L << 40)), 1, Duration.ZERO))
          .isInstanceOf(PositionLostException.class)
          .hasMessageContaining("an older copy was restored");
      capture.leave();
    }
  }
}
