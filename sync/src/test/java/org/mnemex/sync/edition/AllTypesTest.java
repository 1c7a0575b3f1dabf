package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/**
 * A record is the same record however it is read: by a range of keys or by its key, the first time
 * or often, from the database or from an edition. Tried with a table of every type, in which
 * sessions of all settings write.
 */
class AllTypesTest {
  private static final IndexDefinition DEFINITION =
      new IndexDefinition(
          "lots",
          "garden",
          new RecordShape("seed lot", List.of("id"), null, List.of(), Set.of()),
          List.of(
              new FieldDefinition(
                  Field.of("label", FieldType.EXACT, null, Use.FILTER, Use.SHOW),
                  ColumnRef.of("label"),
                  null,
                  List.of(),
                  "Label")),
          "");

  /** A driver may change its way after some readings of a connection. */
  private static final int READINGS = 8;

  @TempDir private Path folder;

  @Test
  void ofPostgres() throws Exception {
    SourceDefinition.Server server = TestServers.newPostgres();
    try (Connection connection = TestServers.connect(server)) {
      run(
          connection,
          "CREATE EXTENSION citext",
          "CREATE EXTENSION hstore",
          "CREATE DOMAIN positive AS int CHECK (value > 0)",
          "CREATE TYPE size AS ENUM ('s', 'm', 'l')",
          "CREATE TYPE dimensions AS (width int, height numeric)",
          """
          CREATE TABLE "seed lot" (id citext PRIMARY KEY, label text, positive positive, size size,
            dimensions dimensions, sizes size[], positives positive[], price numeric(10, 2),
            paid money, width real, height double precision, sold bigint, small smallint, made date,
            seen timestamp, seen3 timestamp(3), zoned timestamptz, time time, timezoned timetz,
            long interval, range int4range, times tstzrange, ok boolean, oks boolean[], code uuid,
            codes uuid[], json json, jsonb jsonb, jsonbs jsonb[], xml xml, padded char(8),
            quoted varchar[], bits bit(5), more_bits bit varying, address inet, net cidr, mac macaddr,
            place point, polygon polygon, store hstore, object oid, vector tsvector, nested int[][],
            days date[], moments timestamptz[], floats real[], "Mixed Case" text, "select" text,
            doubled numeric GENERATED ALWAYS AS (price * 2) STORED,
            number int GENERATED ALWAYS AS IDENTITY)
          """,
          """
          INSERT INTO "seed lot" SELECT 'Id-' || i, 'lot', i, (array['s', 'm', 'l'])[1 + i % 3]::size,
            row(i, i / 3.0)::dimensions, '{s,m}', '{1,2}', i / 7.0, i, i, i, i * 1000000007::bigint, i,
            date '2020-01-01' + i, timestamp '2026-09-27 02:30' + i * interval '1 min',
            timestamp '2026-09-27 03:00:00.250', timestamptz '2026-09-26 13:30+00' + i * interval '1 h',
            '10:00', '10:00+02', i * interval '1 hour 3 s', int4range(i, i + 5),
            tstzrange('2026-05-04 10:00+02', null), i % 2 = 0, '{t,f,null}', gen_random_uuid(),
            array[gen_random_uuid()], '{"a": [1, 2.50]}', '{"a": [1, 2.50]}', array['{"q":1}'::jsonb],
            '<p>x <b>y</b></p>', 'ab', '{"a,b","c\\"d",NULL}', B'10101', B'11', '10.0.0.1/8',
            '10.0.0.0/8', '08:00:2b:01:02:03', point(i, 0.5), '((0,0),(1,1),(1,0))', 'a=>1, b=>NULL',
            42, to_tsvector('english', 'big ferns'), '{{1,2},{3,4}}', '{2026-09-27}',
            '{2026-09-26 14:00+00}', '{1,2.5}', 'Mixed', 'reserved'
          FROM generate_series(1, 60) i
          """,
          """
          INSERT INTO "seed lot" (id, width, height, price, zoned, seen, made) VALUES
            ('odd', 'NaN', 'Infinity', 'NaN', 'infinity', '-infinity', 'infinity'),
            ('', 1e-30, 1e300, 0, '0044-03-15 12:00:00+00 BC', '99999-01-01', '4713-01-01 BC'),
            ('A/b ~?#%', -0.0, -0.0, -1, NULL, NULL, NULL)
          """);
      isTrue(
          connection,
          new PostgresSource(server),
          "SET timezone = 'Asia/Tokyo'; SET intervalstyle = 'iso_8601';"
              + " SET extra_float_digits = -3; SET bytea_output = 'escape'",
          """
          UPDATE "seed lot" SET width = width + 0.1, height = height * 3, long = long * 2,
            zoned = zoned + interval '1 day', id = upper(id)
          """);
    }
  }

  @Test
  void ofMariadb() throws Exception {
    SourceDefinition.Server server = TestServers.newMariadb();
    try (Connection connection = TestServers.connect(server)) {
      run(
          connection,
          "SET sql_mode = 'ANSI_QUOTES'",
          """
          CREATE TABLE "seed lot" (id varchar(40) PRIMARY KEY, label text, tiny tinyint,
            tinier tinyint unsigned, yes boolean, bit bit, bits bit(8), small smallint,
            medium mediumint unsigned, filled int unsigned zerofill, big bigint unsigned,
            price decimal(30, 10), width float, height double, day date, seen datetime,
            seen6 datetime(6), zoned timestamp NULL, zoned6 timestamp(6) NULL, time time, time3 time(3),
            year year, padded char(10), short tinytext, "long" longtext CHARACTER SET latin1,
            mood enum('a', 'b', 'ü'), moods set('x', 'y', 'z'), json json, code uuid, address inet6,
            doubled int AS (tiny + 1) STORED, told varchar(20) AS (concat('v', tiny)) VIRTUAL,
            "select" text, "Mixed ü" text) CHARACTER SET utf8mb4
          """,
          """
          INSERT INTO "seed lot" (id, label, tiny, tinier, yes, bit, bits, small, medium, filled, big,
            price, width, height, day, seen, seen6, zoned, zoned6, time, time3, year, padded, short,
            "long", mood, moods, json, code, address, "select", "Mixed ü")
          SELECT concat('Id-', seq), 'lot', seq, 200, seq % 2, seq % 2, b'10101010', seq, 70000, 5,
            18446744073709551615, seq / 3, seq / 3, seq / 3, '2026-03-29',
            '2026-09-27 02:30:00' + INTERVAL seq MINUTE, '2026-09-27 03:00:00.123456',
            from_unixtime(1790472000 + seq * 600), from_unixtime(1790478000.5), '-12:30:00',
            '100:00:00.5', 2026, 'pad', 'tt', 'süß', 'ü', 'x,z', '{"a": 1.50}', uuid(), '::1', 'res', 'M'
          FROM seq_1_to_60
          """,
          """
          INSERT INTO "seed lot" (id, day, seen, zoned, year, time, height, width) VALUES
            ('odd', '0000-00-00', '0000-00-00', '0000-00-00', 0, '838:59:59', 1e300, 1e30),
            ('', '2026-00-00', '2026-00-10 10:00:00', NULL, 2155, '00:00:00', -0.0, 1e-30),
            ('A/b ~?#%', NULL, NULL, NULL, NULL, NULL, NULL, NULL),
            ('🌿', '9999-12-31', '9999-12-31 23:59:59', NULL, NULL, NULL, 123456789.123, 16777217)
          """);
      isTrue(
          connection,
          new MariadbSource(server),
          "SET time_zone = '+09:00', sql_mode = 'ANSI_QUOTES', character_set_results = latin1",
          """
          UPDATE "seed lot" SET width = width + 0.1, height = height / 3,
            zoned = zoned + INTERVAL 1 DAY, small = small + 1, id = concat(id, 'x')
          """);
    }
  }

  @Test
  void ofSqlite() throws Exception {
    Path file = folder.resolve("garden.db");
    SourceDefinition.Sqlite definition =
        new SourceDefinition.Sqlite("garden", file, SourceDefinition.Following.PREPARING);
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file)) {
      run(
          connection,
          """
          CREATE TABLE "seed lot" (id TEXT PRIMARY KEY, label TEXT, number INTEGER, width REAL,
            price NUMERIC(8, 2), day DATE, seen DATETIME, yes BOOLEAN, "any", "Mixed ü" TEXT,
            doubled INTEGER AS (number * 2) STORED)
          """,
          """
          WITH RECURSIVE lot (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM lot WHERE i < 60)
          INSERT INTO "seed lot" SELECT 'Id-' || i, 'lot', i, i, i / 3.0, '2026-09-27',
            '2026-09-27 03:00:00', i % 2, CASE i % 3 WHEN 0 THEN i WHEN 1 THEN 'x' ELSE i / 3.0 END, 'M'
          FROM lot
          """,
          """
          INSERT INTO "seed lot" (id, number, width, price, "any") VALUES ('', 9223372036854775807,
            1e300, 9e999, -9e999), ('A/b ~?#%', -0.0, -0.0, 'none', 5.0), ('🌿', 1, 2, 3, 1e-30)
          """);
      isTrue(
          connection,
          new SqliteSource(definition),
          "PRAGMA case_sensitive_like = 1",
          """
          UPDATE "seed lot" SET width = width + 0.1, number = number / 2, id = id || 'x'
          """);
    }
  }

  private static void run(Connection connection, String... statements) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }

  private void isTrue(Connection connection, Source source, String settings, String change)
      throws Exception {
    try (Follower follower = Follower.start(DEFINITION, source, folder.resolve("index"))) {
      for (int reading = 0; reading < READINGS; reading++) {
        follower.awaitTruth(1);
      }
      int documents = follower.documents();
      assertThat(follower.quarantine.keys("lots", 1)).isEmpty();
      run(connection, settings, change);
      follower.awaitTruth(1);
      assertThat(follower.documents()).isEqualTo(documents);
      follower.editions().build(DEFINITION, 2, source, new FillPlan(true, false));
      follower.awaitTruth(2);
      assertThat(follower.live().entry().plan().fromStored()).isTrue();
      assertThat(follower.documents()).isEqualTo(documents);
    }
  }
}
