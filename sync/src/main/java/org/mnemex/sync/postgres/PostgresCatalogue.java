package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.sync.source.Catalogue;

/** Reads tables, columns and keys of one schema. */
final class PostgresCatalogue {
  private static final String COLUMNS =
      """
      SELECT c.relname, c.relkind IN ('v', 'm', 'f') AS view, a.attname,
             format_type(a.atttypid, a.atttypmod) AS type, a.atttypid = 'bytea'::regtype AS bytes,
             coalesce(array_position(k.conkey, a.attnum), 0) AS place
      FROM pg_class c
      JOIN pg_namespace n ON n.oid = c.relnamespace
      JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
      LEFT JOIN pg_constraint k ON k.conrelid = c.oid AND k.contype = 'p'
      WHERE n.nspname = ? AND c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
        AND c.relname NOT LIKE 'mnemex!_%' ESCAPE '!'
      ORDER BY c.relname, a.attnum""";

  private PostgresCatalogue() {}

  static Catalogue read(Connection connection, String schema) throws SQLException {
    Map<String, Boolean> views = new TreeMap<>();
    Map<String, List<Catalogue.Column>> columns = new TreeMap<>();
    Map<String, Map<Integer, String>> keys = new TreeMap<>();
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
                    List.copyOf(keys.getOrDefault(name, Map.of()).values()))));
    return new Catalogue(tables);
  }
}
