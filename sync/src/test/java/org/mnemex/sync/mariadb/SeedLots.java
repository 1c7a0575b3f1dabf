package org.mnemex.sync.mariadb;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;

/** Order lines with their seed lots and notes, in a new database that is prepared. */
final class SeedLots {
  static final RecordShape SHAPE =
      new RecordShape(
          "order line",
          List.of("order", "no"),
          "coalesce(\"order line\".\"group\", '') <> 'hidden'",
          List.of(
              Shapes.lookup("lot", "seed lot", Map.of("code", ColumnRef.of("seed"))),
              Shapes.children(
                  "notes",
                  "note",
                  Map.of("order", ColumnRef.of("order"), "line", ColumnRef.of("no")),
                  List.of("-rank"),
                  2)),
          Set.of("seed lot.secret"));

  final SourceDefinition.Server definition;
  final MariadbSource source;

  private SeedLots(SourceDefinition.Server definition) {
    this.definition = definition;
    source = new MariadbSource(definition);
  }

  static SeedLots create() throws Exception {
    SeedLots lots = new SeedLots(TestServers.newMariadb());
    lots.run(
        """
        CREATE TABLE "seed lot" (image BLOB, code VARCHAR(20) CHARACTER SET latin1 PRIMARY KEY,
          name TEXT, secret TEXT, price DECIMAL(8,2), sown TIMESTAMP(3) NULL, sorted DATETIME,
          mood ENUM('wild', 'tame'), tags SET('a', 'b'), more JSON, yes BOOLEAN, bits BIT(1), mask BIT(10),
          id UUID, big BIGINT UNSIGNED, vintage YEAR);
        CREATE TABLE "order line" ("order" INT UNSIGNED, no VARCHAR(20), seed VARCHAR(20) CHARACTER SET latin1,
          "group" TEXT, PRIMARY KEY ("order", no));
        CREATE TABLE note (id BIGINT PRIMARY KEY, "order" INT UNSIGNED, line VARCHAR(20), "rank" INT, text TEXT)
          PARTITION BY RANGE (id) (PARTITION old VALUES LESS THAN (100), PARTITION new VALUES LESS THAN MAXVALUE);
        CREATE VIEW seen AS SELECT * FROM note;
        SET time_zone = '+02:00';
        INSERT INTO "seed lot" VALUES ('x', 'Mühle', 'Fern spores', 'hush', 2.5, '2026-05-04 10:00:00.25',
          '2026-05-04 10:00:00', 'wild', 'a,b', '{"a": 1}', true, 1, 513,
          '0b0e9d2e-58b8-4bd5-a1c7-6a3f3d5c2b11', 18446744073709551615, 1999);
        INSERT INTO "order line" VALUES (4000000000, 'a/b', 'Mühle', NULL), (1, 'c', NULL, 'x'),
          (2, 'c', NULL, 'hidden');
        INSERT INTO note VALUES (1, 1, 'c', 1, 'low'), (102, 1, 'c', 9, 'high'), (3, 1, 'c', 5, 'mid');
        """);
    lots.source.prepare(SHAPE.watchedColumns());
    return lots;
  }

  void run(String sql) throws SQLException {
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }
}
