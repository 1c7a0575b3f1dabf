package org.mnemex.sync.feed;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import org.mnemex.sync.Shapes;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.RecordShape.Join;
import org.mnemex.sync.definition.RecordShape.Link;

/** A small garden whose tables all change at random, and what SQL says of its records. */
final class ChangingGarden {
  static final IndexDefinition PLANTS =
      new IndexDefinition(
          "plants",
          "garden",
          new RecordShape(
              "accession",
              List.of("no"),
              "status <> 'lost'",
              List.of(
                  Shapes.lookup("taxon", "taxon", Map.of("id", ColumnRef.of("taxon_id"))),
                  Shapes.lookup("family", "family", Map.of("id", ColumnRef.of("taxon.family_id"))),
                  Shapes.children(
                      "sightings", "sighting", Map.of("no", ColumnRef.of("no")), List.of("id"), 0),
                  new Join(
                      "labels",
                      "label",
                      Map.of(),
                      new Link(
                          "has_label", Map.of("no", ColumnRef.of("no")), Map.of("label", "id")),
                      true,
                      "has_label.shown = 1",
                      List.of(),
                      0)),
              Set.of()),
          List.of(
              Shapes.field("name", "taxon.name"),
              Shapes.field("family", "family.name"),
              Shapes.field("sightings", "sightings.text"),
              Shapes.field("labels", "labels.title")),
          "");

  /** Families from this number on are only written by transactions that take long. */
  static final int FAMILIES = 12;

  private static final List<String> TABLES =
      List.of(
          "CREATE TABLE accession (no VARCHAR(20) PRIMARY KEY, taxon_id INT, status TEXT NOT NULL)",
          "CREATE TABLE taxon (id INT PRIMARY KEY, family_id INT, name TEXT)",
          "CREATE TABLE family (id INT PRIMARY KEY, name TEXT)",
          "CREATE TABLE sighting (id INT PRIMARY KEY, no VARCHAR(20), text TEXT)",
          "CREATE TABLE label (id INT PRIMARY KEY, title TEXT)",
          "CREATE TABLE has_label (no VARCHAR(20), label INT, shown INT, PRIMARY KEY (no, label))");

  /** Root, lookup, child, link: every document as text. */
  private static final String TRUTH =
      """
      SELECT a.no, coalesce(t.name, '') || '|' || coalesce(f.name, '') || '|' ||
        coalesce((SELECT string_agg(text, ',' ORDER BY s.id) FROM sighting s
          WHERE s.no = a.no), '') || '|' ||
        coalesce((SELECT string_agg(l.title, ',' ORDER BY l.id) FROM has_label h
          JOIN label l ON l.id = h.label WHERE h.no = a.no AND h.shown = 1), '')
      FROM accession a LEFT JOIN taxon t ON t.id = a.taxon_id LEFT JOIN family f ON f.id = t.family_id
      WHERE a.status <> 'lost'""";

  private ChangingGarden() {}

  /** Makes the tables, empty. */
  static void create(Statement statement) throws SQLException {
    for (String table : TABLES) {
      statement.executeUpdate(table);
    }
  }

  /** One statement at random, in any of the tables. */
  static void change(Connection database, Random random) throws SQLException {
    int id = random.nextInt(12);
    int other = random.nextInt(12);
    String word = "w" + random.nextInt(1000);
    String sql =
        switch (random.nextInt(14)) {
          case 0, 1 ->
              "INSERT INTO accession VALUES ('a%d', %d, '%s') ON CONFLICT (no) DO UPDATE SET taxon_id = excluded.taxon_id, status = excluded.status"
                  .formatted(id, other, random.nextInt(4) == 0 ? "lost" : "planted");
          case 2 -> "DELETE FROM accession WHERE no = 'a%d'".formatted(id);
          case 3 ->
              "UPDATE accession SET no = 'a%1$d' WHERE no = 'a%2$d' AND NOT EXISTS (SELECT 1 FROM accession b WHERE b.no = 'a%1$d')"
                  .formatted(other, id);
          case 4 -> "UPDATE accession SET taxon_id = %d WHERE taxon_id = %d".formatted(other, id);
          case 5 ->
              "INSERT INTO taxon VALUES (%d, %d, '%s') ON CONFLICT (id) DO UPDATE SET family_id = excluded.family_id, name = excluded.name"
                  .formatted(id, random.nextInt(FAMILIES + 4), word);
          case 6 -> "UPDATE taxon SET family_id = %d WHERE family_id = %d".formatted(other, id);
          case 7 -> "DELETE FROM taxon WHERE id = " + id;
          case 8 ->
              "INSERT INTO family VALUES (%d, '%s') ON CONFLICT (id) DO UPDATE SET name = excluded.name"
                  .formatted(id, word);
          case 9 ->
              "INSERT INTO sighting SELECT coalesce(max(id), 0) + 1, 'a%d', '%s' FROM sighting"
                  .formatted(id, word);
          case 10 -> "UPDATE sighting SET no = 'a%d' WHERE no = 'a%d'".formatted(other, id);
          case 11 -> "DELETE FROM sighting WHERE no = 'a%d'".formatted(id);
          case 12 ->
              "INSERT INTO label VALUES (%d, '%s') ON CONFLICT (id) DO UPDATE SET title = excluded.title"
                  .formatted(id, word);
          default ->
              "INSERT INTO has_label VALUES ('a%d', %d, %d) ON CONFLICT (no, label) DO UPDATE SET shown = excluded.shown"
                  .formatted(id, other, random.nextInt(2));
        };
    try (Statement statement = database.createStatement()) {
      statement.executeUpdate(inDialectOf(database, sql));
    }
  }

  /** MariaDB has its own words for inserting or changing, and for joining texts. */
  static String inDialectOf(Connection database, String sql) throws SQLException {
    return database.getMetaData().getDatabaseProductName().equals("MariaDB")
        ? sql.replaceAll("ON CONFLICT \\(.*?\\) DO UPDATE SET", "ON DUPLICATE KEY UPDATE")
            .replaceAll("excluded\\.(\\w+)", "VALUES($1)")
            .replaceAll("string_agg\\((\\S+), ',' (ORDER BY \\S+)\\)", "group_concat($1 $2)")
        : sql;
  }

  /** What the index must say of each record. */
  static Map<String, String> truth(Connection database) throws SQLException {
    Map<String, String> truth = new TreeMap<>();
    try (Statement statement = database.createStatement();
        ResultSet rows = statement.executeQuery(inDialectOf(database, TRUTH))) {
      while (rows.next()) {
        truth.put(rows.getString(1), rows.getString(2));
      }
    }
    return truth;
  }
}
