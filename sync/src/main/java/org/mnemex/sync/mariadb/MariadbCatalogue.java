package org.mnemex.sync.mariadb;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.TableNotes;

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

  /** In the form of {@code SHOW CREATE TABLE}; the catalogue hides it from some accounts. */
  static final Pattern FOREIGN_KEY =
      Pattern.compile(
          "CONSTRAINT \"(?<name>(?:[^\"]|\"\")+)\" FOREIGN KEY \\((?<own>[^)]+)\\)"
              + " REFERENCES \"(?<parent>(?:[^\"]|\"\")+)\" \\((?<columns>[^)]+)\\)(?<actions>.*)");

  private static final Pattern NAME = Pattern.compile("\"((?:[^\"]|\"\")+)\"");

  private MariadbCatalogue() {}

  /** The server's estimate of a table's rows. */
  static long estimate(Connection connection, String database, String table) throws SQLException {
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT table_rows FROM information_schema.tables"
                + " WHERE table_schema = ? AND table_name = ?")) {
      select.setString(1, database);
      select.setString(2, table);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() ? rows.getLong(1) : 0;
      }
    }
  }

  /** The statement that creates a table. */
  static String statement(Connection connection, String table) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SHOW CREATE TABLE " + Sql.MARIADB.name(table))) {
      return rows.next() ? rows.getString(2) : "";
    }
  }

  static Map<String, TableNotes> notes(Connection connection, String database, Set<String> tables)
      throws SQLException {
    Map<String, Map<String, String>> comments = new TreeMap<>();
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT table_name, column_name, column_comment FROM information_schema.columns"
                + " WHERE table_schema = ? AND column_comment <> ''")) {
      select.setString(1, database);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          comments
              .computeIfAbsent(rows.getString(1), name -> new TreeMap<>())
              .put(rows.getString(2), rows.getString(3));
        }
      }
    }
    Map<String, TableNotes> notes = new TreeMap<>();
    for (String table : tables) {
      List<TableNotes.ForeignKey> keys = new ArrayList<>();
      Matcher found = FOREIGN_KEY.matcher(statement(connection, table));
      while (found.find()) {
        List<String> own = names(found.group("own"));
        List<String> other = names(found.group("columns"));
        Map<String, String> columns = new TreeMap<>();
        for (int i = 0; i < own.size(); i++) {
          columns.put(own.get(i), other.get(i));
        }
        keys.add(new TableNotes.ForeignKey(columns, found.group("parent").replace("\"\"", "\"")));
      }
      notes.put(table, new TableNotes(keys, comments.getOrDefault(table, Map.of()), Map.of()));
    }
    return notes;
  }

  private static List<String> names(String list) {
    List<String> names = new ArrayList<>();
    Matcher name = NAME.matcher(list);
    while (name.find()) {
      names.add(name.group(1).replace("\"\"", "\""));
    }
    return names;
  }

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
