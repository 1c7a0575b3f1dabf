package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Requirement;

/** What our role may do in a schema. Asks in ways that need no rights there. */
final class ReadingRights {
  private static final String SCHEMA =
      """
      SELECT current_user AS role, n.oid IS NOT NULL AS found,
        coalesce(has_schema_privilege(n.oid, 'USAGE'), false) AS usable,
        (SELECT string_agg(o.nspname, ', ' ORDER BY o.nspname) FROM pg_namespace o
          WHERE o.nspname !~ '^pg_' AND o.nspname <> 'information_schema') AS others
      FROM (SELECT 1) one LEFT JOIN pg_namespace n ON n.nspname = ?""";

  private static final String GRANTED =
      """
      SELECT c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
      WHERE n.nspname = ? AND c.relname = ANY (?) AND has_table_privilege(c.oid, ?)""";

  private final Connection connection;
  private final String schema;

  ReadingRights(Connection connection, String schema) {
    this.connection = connection;
    this.schema = schema;
  }

  /** Whether the schema is there and our role may use it. */
  Requirement toUseSchema() throws SQLException {
    try (PreparedStatement select = connection.prepareStatement(SCHEMA)) {
      select.setString(1, schema);
      try (ResultSet rows = select.executeQuery()) {
        rows.next();
        String role = rows.getString("role");
        return rows.getBoolean("found")
            ? new Requirement(
                "role '%s' may use schema '%s'".formatted(role, schema),
                rows.getBoolean("usable"),
                List.of(
                    "GRANT USAGE ON SCHEMA %s TO %s;"
                        .formatted(Sql.POSTGRES.name(schema), Sql.POSTGRES.name(role))),
                Requirement.Kind.ADMINISTRATIVE)
            : new Requirement(
                "the database has a schema '%s'".formatted(schema),
                false,
                List.of(
                    "-- name another 'schema' in the definition of the source: "
                        + rows.getString("others")),
                Requirement.Kind.ADMINISTRATIVE);
      }
    }
  }

  /** Whether our role may use the schema and read each of some tables. */
  List<Requirement> toRead(Set<String> tables) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    all.add(toUseSchema());
    String role = role();
    Set<String> readable = granted("SELECT", tables);
    for (String table : tables) {
      all.add(
          new Requirement(
              "role '%s' may read table '%s'".formatted(role, table),
              readable.contains(table),
              List.of(grant("SELECT", table, role)),
              Requirement.Kind.ADMINISTRATIVE));
    }
    return all;
  }

  /** Those of some tables that our role may not read, with the statements that allow it. */
  Map<String, List<String>> unreadable(Set<String> tables) throws SQLException {
    List<String> schemaFirst = toUseSchema().statements();
    String role = role();
    Set<String> readable = granted("SELECT", tables);
    Map<String, List<String>> unreadable = new TreeMap<>();
    for (String table : tables) {
      List<String> statements = new ArrayList<>(schemaFirst);
      if (!readable.contains(table)) {
        statements.add(grant("SELECT", table, role));
      }
      if (!statements.isEmpty()) {
        unreadable.put(table, statements);
      }
    }
    return unreadable;
  }

  private String grant(String privileges, String table, String role) {
    return "GRANT %s ON %s TO %s;"
        .formatted(privileges, Sql.POSTGRES.column(schema, table), Sql.POSTGRES.name(role));
  }

  /** Those of some tables on which our role has a privilege, such as {@code TRIGGER}. */
  Set<String> granted(String privilege, Set<String> tables) throws SQLException {
    Set<String> granted = new TreeSet<>();
    try (PreparedStatement select = connection.prepareStatement(GRANTED)) {
      select.setString(1, schema);
      select.setArray(2, connection.createArrayOf("text", tables.toArray()));
      select.setString(3, privilege);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          granted.add(rows.getString(1));
        }
      }
    }
    return granted;
  }

  /** Whether our role may make tables in the schema. */
  boolean mayMakeTables() throws SQLException {
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT has_schema_privilege(oid, 'CREATE') FROM pg_namespace WHERE nspname = ?")) {
      select.setString(1, schema);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() && rows.getBoolean(1);
      }
    }
  }

  /** The name of our role. */
  String role() throws SQLException {
    try (PreparedStatement select = connection.prepareStatement("SELECT current_user");
        ResultSet rows = select.executeQuery()) {
      rows.next();
      return rows.getString(1);
    }
  }
}
