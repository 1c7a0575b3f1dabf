package org.mnemex.sync.record;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.StringJoiner;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.ReadColumns;

/** How PostgreSQL finds the rows of a to-many join for a portion of records. */
class LookupPlanTest {
  private static final int RECORDS = 500;

  @Test
  void rowsAreFoundByTheirIndexAlthoughTheStatisticsAreWrong() throws Exception {
    SourceDefinition.Server definition = TestServers.newPostgres();
    try (Connection connection = TestServers.connect(definition);
        Statement statement = connection.createStatement()) {
      statement.execute(
          """
          CREATE TABLE bed (code int PRIMARY KEY);
          CREATE TABLE visit (id int PRIMARY KEY, bed int);
          CREATE INDEX ON visit (bed);
          INSERT INTO bed SELECT generate_series(1, 20000);
          INSERT INTO visit SELECT i, i::bigint * 7919 % 20000 + 1 FROM generate_series(1, 140000) i;
          ALTER TABLE visit ALTER bed SET (n_distinct = 1600);
          ANALYZE
          """);
    }
    RecordShape.Join visits =
        Shapes.children("visits", "visit", Map.of("bed", ColumnRef.of("code")), List.of(), 0);
    RecordShape shape = new RecordShape("bed", List.of("code"), null, List.of(visits), Set.of());
    PostgresSource source = new PostgresSource(definition);
    ShapeSql sql =
        new ShapeSql(
            Sql.POSTGRES, shape, ReadColumns.of(shape, source.catalogue(), Map.of()), Map.of());
    try (Connection connection = source.connect();
        PreparedStatement explain =
            connection.prepareStatement("EXPLAIN " + sql.many(visits, RECORDS))) {
      for (int i = 1; i <= RECORDS; i++) {
        explain.setInt(i, i);
      }
      StringJoiner plan = new StringJoiner("\n");
      try (ResultSet rows = explain.executeQuery()) {
        while (rows.next()) {
          plan.add(rows.getString(1));
        }
      }
      assertThat(plan.toString()).contains("on visit").doesNotContain("Seq Scan on visit", "JIT");
    }
  }
}
