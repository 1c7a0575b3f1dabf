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
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.TableIdentity;
import org.mnemex.sync.source.TableNotes;

/** Reads tables, columns and keys of one schema. */
final class PostgresCatalogue {
  private static final String COLUMNS =
      """
      SELECT c.relname, c.relkind IN ('v', 'm', 'f') AS view, a.attname,
             format_type(a.atttypid, a.atttypmod) AS type, a.atttypid = 'bytea'::regtype AS bytes,
             coalesce(array_position(k.conkey, a.attnum), 0) AS place,
             EXISTS (SELECT 1 FROM pg_index i WHERE i.indrelid = c.oid AND i.indkey[0] = a.attnum
               AND i.indisvalid AND i.indpred IS NULL) AS indexed
      FROM pg_class c
      JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
      LEFT JOIN pg_constraint k ON k.conrelid = c.oid AND k.contype = 'p'
      WHERE n.nspname = ? AND c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
        AND c.relname NOT LIKE 'mnemex!_%' ESCAPE '!'
      ORDER BY c.relname, a.attnum""";

  private static final String FOREIGN_KEYS =
      """
      SELECT c.relname, f.oid::bigint AS id, p.relname AS parent, a.attname AS own, b.attname AS other
      FROM pg_constraint f
      JOIN pg_class c ON c.oid = f.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN pg_class p ON p.oid = f.confrelid AND p.relnamespace = n.oid
      CROSS JOIN LATERAL unnest(f.conkey, f.confkey) AS k(own, other)
      JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = k.own
      JOIN pg_attribute b ON b.attrelid = p.oid AND b.attnum = k.other
      WHERE f.contype = 'f' AND n.nspname = ? AND f.conparentid = 0 ORDER BY f.oid""";

  private static final String COMMENTS =
      """
      SELECT c.relname, a.attname, d.description FROM pg_description d
      JOIN pg_class c ON c.oid = d.objoid AND d.classoid = 'pg_class'::regclass
      JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = d.objsubid
      WHERE n.nspname = ? AND d.objsubid > 0""";

  /** Types that list their values, and domains. */
  private static final String TYPES =
      """
      SELECT c.relname, a.attname,
        CASE WHEN coalesce(b.typtype, t.typtype) = 'e' THEN 'enum' ELSE format_type(b.oid, t.typtypmod) END
      FROM pg_attribute a
      JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN pg_type t ON t.oid = a.atttypid AND t.typtype IN ('d', 'e')
      LEFT JOIN pg_type b ON b.oid = t.typbasetype AND t.typtype = 'd'
      WHERE n.nspname = ? AND a.attnum > 0 AND NOT a.attisdropped""";

  private static final String ESTIMATE =
      """
      SELECT coalesce(sum(greatest(c.reltuples, 0)), 0)::bigint FROM pg_class c
      WHERE c.oid = ?::regclass
        OR c.oid IN (SELECT relid FROM pg_partition_tree(?::regclass) WHERE isleaf)""";

  /**
   * Tables and their partitions. Attaching a partition changes the transaction of its entry in
   * pg_inherits; truncating or rewriting it changes its file.
   */
  private static final String IDENTITIES =
      """
      SELECT c.relname, c.oid::bigint::text AS id, t.relid::oid::bigint::text AS part,
        coalesce(pg_relation_filenode(t.relid)::text, '') AS file,
        i.xmin::text <> (SELECT a.xmin::text FROM pg_attribute a
          WHERE a.attrelid = t.relid AND a.attnum = -1) AS attached
      FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
      LEFT JOIN LATERAL pg_partition_tree(c.oid) t ON c.relkind = 'p' AND t.relid <> c.oid
      LEFT JOIN pg_inherits i ON i.inhrelid = t.relid
      WHERE n.nspname = ? AND c.relname = ANY (?) AND c.relkind IN ('r', 'p')""";

  private PostgresCatalogue() {}

  static Map<String, TableIdentity> identities(
      Connection connection, String schema, Set<String> tables) throws SQLException {
    Map<String, String> ids = new TreeMap<>();
    Map<String, Map<String, Boolean>> parts = new TreeMap<>();
    try (PreparedStatement select = connection.prepareStatement(IDENTITIES)) {
      select.setString(1, schema);
      select.setArray(2, connection.createArrayOf("text", tables.toArray()));
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          String table = rows.getString("relname");
          ids.put(table, rows.getString("id"));
          Map<String, Boolean> ofTable = parts.computeIfAbsent(table, name -> new TreeMap<>());
          if (rows.getString("part") != null) {
            ofTable.put(
                rows.getString("part") + "." + rows.getString("file"), rows.getBoolean("attached"));
          }
        }
      }
    }
    Map<String, TableIdentity> identities = new TreeMap<>();
    ids.forEach(
        (table, id) ->
            identities.put(table, new TableIdentity(id, parts.getOrDefault(table, Map.of()))));
    return identities;
  }

  /** The number of rows at the last analyse or vacuum; 0 if there was none. */
  static long estimate(Connection connection, String table) throws SQLException {
    try (PreparedStatement select = connection.prepareStatement(ESTIMATE)) {
      select.setString(1, table);
      select.setString(2, table);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() ? rows.getLong(1) : 0;
      }
    }
  }

  static Map<String, TableNotes> notes(Connection connection, String schema, Set<String> tables)
      throws SQLException {
    Map<String, Map<Long, TableNotes.ForeignKey>> keys = new TreeMap<>();
    try (PreparedStatement select = connection.prepareStatement(FOREIGN_KEYS)) {
      select.setString(1, schema);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          String parent = rows.getString("parent");
          keys.computeIfAbsent(rows.getString("relname"), name -> new TreeMap<>())
              .computeIfAbsent(
                  rows.getLong("id"), id -> new TableNotes.ForeignKey(new TreeMap<>(), parent))
              .columns()
              .put(rows.getString("own"), rows.getString("other"));
        }
      }
    }
    Map<String, Map<String, String>> comments = byColumn(connection, COMMENTS, schema);
    Map<String, Map<String, String>> types = byColumn(connection, TYPES, schema);
    Map<String, TableNotes> notes = new TreeMap<>();
    for (String table : tables) {
      notes.put(
          table,
          new TableNotes(
              List.copyOf(keys.getOrDefault(table, Map.of()).values()),
              comments.getOrDefault(table, Map.of()),
              types.getOrDefault(table, Map.of())));
    }
    return notes;
  }

  /** What a query says of columns, by table and column. */
  private static Map<String, Map<String, String>> byColumn(
      Connection connection, String query, String schema) throws SQLException {
    Map<String, Map<String, String>> told = new TreeMap<>();
    try (PreparedStatement select = connection.prepareStatement(query)) {
      select.setString(1, schema);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          told.computeIfAbsent(rows.getString(1), name -> new TreeMap<>())
              .put(rows.getString(2), rows.getString(3));
        }
      }
    }
    return told;
  }

  static Catalogue read(Connection connection, String schema) throws SQLException {
    Map<String, Boolean> views = new TreeMap<>();
    Map<String, List<Catalogue.Column>> columns = new TreeMap<>();
    Map<String, Map<Integer, String>> keys = new TreeMap<>();
    Map<String, Set<String>> indexed = new TreeMap<>();
    try (PreparedStatement select = connection.prepareStatement(COLUMNS)) {
      select.setString(1, schema);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          String table = rows.getString("relname");
          views.put(table, rows.getBoolean("view"));
          columns
              .computeIfAbsent(table, name -> new ArrayList<>())
              .add(
                  new Catalogue.Column(
                      rows.getString("attname"), rows.getString("type"), rows.getBoolean("bytes")));
          if (rows.getBoolean("indexed")) {
            indexed.computeIfAbsent(table, name -> new TreeSet<>()).add(rows.getString("attname"));
          }
          int place = rows.getInt("place");
          Map<Integer, String> key = keys.computeIfAbsent(table, name -> new TreeMap<>());
          if (place > 0) {
            key.put(place, rows.getString("attname"));
          }
        }
      }
    }
    Map<String, Catalogue.Table> tables = new TreeMap<>();
    columns.forEach(
        (name, all) ->
            tables.put(
                name,
                new Catalogue.Table(
                    name,
                    views.getOrDefault(name, false),
                    all,
                    List.copyOf(keys.getOrDefault(name, Map.of()).values()),
                    indexed.getOrDefault(name, Set.of()))));
    return new Catalogue(tables);
  }
}
