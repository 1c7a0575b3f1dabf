package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Requirement;

/**
 * What a PostgreSQL database needs so that its log can be followed.
 *
 * <ul>
 *   <li>{@code wal_level = logical}, and a role that may replicate: an administrator's work;
 *   <li>a publication {@code mnemex_<source>} of the watched tables;
 *   <li>a replica identity with every watched column: the log has only these columns of a row's old
 *       version, and without them a row that moves to another record would leave its old record
 *       stale.
 * </ul>
 *
 * <p>In addition, all editions share a replication slot, created by {@link LogReceiver} and dropped
 * by {@link LogCapture} with the last of them.
 */
final class PostgresSetup {
  private static final String IDENTITY =
      """
      SELECT n.nspname, c.relname, c.relreplident,
        ARRAY(SELECT a.attname::text FROM pg_index i
          JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = ANY (i.indkey)
          WHERE i.indrelid = c.oid
            AND (c.relreplident = 'd' AND i.indisprimary
              OR c.relreplident = 'i' AND i.indisreplident)) AS columns
      FROM pg_class p JOIN pg_namespace s ON s.oid = p.relnamespace
      CROSS JOIN LATERAL pg_partition_tree(p.oid) t
      JOIN pg_class c ON c.oid = t.relid JOIN pg_namespace n ON n.oid = c.relnamespace
      WHERE s.nspname = ? AND p.relname = ? AND t.isleaf
      UNION ALL
      SELECT n.nspname, c.relname, c.relreplident,
        ARRAY(SELECT a.attname::text FROM pg_index i
          JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = ANY (i.indkey)
          WHERE i.indrelid = c.oid
            AND (c.relreplident = 'd' AND i.indisprimary
              OR c.relreplident = 'i' AND i.indisreplident))
      FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
      WHERE n.nspname = ? AND c.relname = ? AND c.relkind = 'r' AND NOT c.relispartition""";

  private static final int OLDEST_VERSION = 130_000;

  private final Connection connection;
  private final String schema;
  private final String publication;

  PostgresSetup(Connection connection, String schema, String publication) {
    this.connection = connection;
    this.schema = schema;
    this.publication = publication;
  }

  /** The publication of a source. */
  static String publication(String source) {
    return "mnemex_" + source.replace('-', '_');
  }

  /** All requirements, in the order in which to meet them. */
  List<Requirement> requirements(Map<String, Set<String>> columnsByTable) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    all.add(recent(connection));
    String level = single("SHOW wal_level");
    all.add(
        new Requirement(
            "the write-ahead log is written for logical replication (wal_level is '%s')"
                .formatted(level),
            level.equals("logical"),
            List.of("ALTER SYSTEM SET wal_level = 'logical'; -- then restart the server"),
            Requirement.Kind.ADMINISTRATIVE));
    ReadingRights rights = new ReadingRights(connection, schema);
    String user = rights.role();
    all.add(
        new Requirement(
            "role '%s' may replicate".formatted(user),
            single("SELECT rolreplication OR rolsuper FROM pg_roles WHERE rolname = current_user")
                .equals("t"),
            List.of("ALTER ROLE " + Sql.POSTGRES.name(user) + " REPLICATION;"),
            Requirement.Kind.ADMINISTRATIVE));
    all.addAll(rights.toRead(columnsByTable.keySet()));
    if (!columnsByTable.isEmpty()) {
      all.add(published(columnsByTable.keySet()));
    }
    for (Map.Entry<String, Set<String>> entry : columnsByTable.entrySet()) {
      all.addAll(identified(entry.getKey(), entry.getValue()));
    }
    return all;
  }

  /** Whether the server supports a feature. */
  static Requirement recent(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT current_setting('server_version'), current_setting('server_version_num')::int")) {
      rows.next();
      return new Requirement(
          "the server is PostgreSQL 13 or newer (it is %s)".formatted(rows.getString(1)),
          rows.getInt(2) >= OLDEST_VERSION,
          List.of("-- upgrade the server"),
          Requirement.Kind.ADMINISTRATIVE);
    }
  }

  private String table(String table) {
    return Sql.POSTGRES.column(schema, table);
  }

  private Requirement published(Set<String> tables) throws SQLException {
    String what =
        "publication '%s' has the tables %s".formatted(publication, String.join(", ", tables));
    String name = Sql.POSTGRES.name(publication);
    Set<String> missing = new TreeSet<>(tables);
    boolean exists;
    try (PreparedStatement select =
        connection.prepareStatement("SELECT 1 FROM pg_publication WHERE pubname = ?")) {
      select.setString(1, publication);
      try (ResultSet rows = select.executeQuery()) {
        exists = rows.next();
      }
    }
    if (!exists) {
      return new Requirement(
          what,
          false,
          List.of(
              "CREATE PUBLICATION %s FOR TABLE %s WITH (publish_via_partition_root = true);"
                  .formatted(name, list(tables))),
          Requirement.Kind.PREPARABLE);
    }
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT tablename FROM pg_publication_tables WHERE pubname = ? AND schemaname = ?")) {
      select.setString(1, publication);
      select.setString(2, schema);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          missing.remove(rows.getString(1));
        }
      }
    }
    return new Requirement(
        what,
        missing.isEmpty(),
        List.of("ALTER PUBLICATION %s ADD TABLE %s;".formatted(name, list(missing))),
        Requirement.Kind.PREPARABLE);
  }

  private String list(Set<String> tables) {
    return String.join(", ", tables.stream().map(this::table).toList());
  }

  /** The replica identity of a table, or of each of its partitions. */
  private List<Requirement> identified(String table, Set<String> columns) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    try (PreparedStatement select = connection.prepareStatement(IDENTITY)) {
      for (int half = 0; half < 2; half++) {
        select.setString(2 * half + 1, schema);
        select.setString(2 * half + 2, table);
      }
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          Set<String> logged = Set.of((String[]) rows.getArray("columns").getArray());
          all.add(
              new Requirement(
                  "the log has columns %s of the old version of a row of '%s'"
                      .formatted(String.join(", ", columns), rows.getString("relname")),
                  rows.getString("relreplident").equals("f") || logged.containsAll(columns),
                  List.of(
                      "ALTER TABLE %s REPLICA IDENTITY FULL;"
                          .formatted(
                              Sql.POSTGRES.column(
                                  rows.getString("nspname"), rows.getString("relname")))),
                  Requirement.Kind.PREPARABLE));
        }
      }
    }
    return all;
  }

  private String single(String sql) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(sql)) {
      return rows.next() ? String.valueOf(rows.getString(1)) : "";
    }
  }
}
