package org.mnemex.sync.mariadb;

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

/** Reads tables, columns and keys of one database. */
final class MariadbCatalogue {
  private static final String COLUMNS =
      """
      SELECT t.table_name, t.table_type <> 'BASE TABLE' AS view, c.column_name, c.column_type,
             c.data_type, coalesce(k.seq_in_index, 0) AS place,
             EXISTS (SELECT 1 FROM information_schema.statistics i
               WHERE i.table_schema = c.table_schema AND i.table_name = c.table_name
                 AND i.column_name = c.column_name AND i.seq_in_index = 1) AS indexed
      FROM information_schema.tables t
      JOIN information_schema.columns c
        ON c.table_schema = t.table_schema AND c.table_name = t.table_name
      LEFT JOIN information_schema.statistics k
        ON k.table_schema = c.table_schema AND k.table_name = c.table_name
        AND k.column_name = c.column_name AND k.index_name = 'PRIMARY'
      WHERE t.table_schema = ? AND t.table_name NOT LIKE 'mnemex!_%' ESCAPE '!'
      ORDER BY t.table_name, c.ordinal_position""";

  private static final Set<String> BYTES =
      Set.of(
          "binary",
          "varbinary",
          "tinyblob",
          "blob",
          "mediumblob",
          "longblob",
          "geometry",
          "point",
          "linestring",
          "polygon",
          "multipoint",
          "multilinestring",
          "multipolygon",
          "geometrycollection");

  private MariadbCatalogue() {}

  static Catalogue read(Connection connection, String database) throws SQLException {
    Map<String, Boolean> views = new TreeMap<>();
    Map<String, List<Catalogue.Column>> columns = new TreeMap<>();
    Map<String, Map<Integer, String>> keys = new TreeMap<>();
    Map<String, Set<String>> indexed = new TreeMap<>();
    try (PreparedStatement select = connection.prepareStatement(COLUMNS)) {
      select.setString(1, database);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          String table = rows.getString("table_name");
          String column = rows.getString("column_name");
          views.put(table, rows.getBoolean("view"));
          columns
              .computeIfAbsent(table, name -> new ArrayList<>())
              .add(
                  new Catalogue.Column(
                      column,
                      rows.getString("column_type"),
                      BYTES.contains(rows.getString("data_type"))));
          if (rows.getBoolean("indexed")) {
            indexed.computeIfAbsent(table, name -> new TreeSet<>()).add(column);
          }
          int place = rows.getInt("place");
          Map<Integer, String> key = keys.computeIfAbsent(table, name -> new TreeMap<>());
          if (place > 0) {
            key.put(place, column);
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
