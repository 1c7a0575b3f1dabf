package org.mnemex.e2e;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.Garden;

/**
 * What the documents of the index {@code plants} must say, worked out from the database by plain
 * SQL that shares nothing with the service.
 */
final class GardenTruth {
  private GardenTruth() {}

  /** The stored fields that every record of a garden in an SQLite file should have, by key. */
  static Map<String, Map<String, List<Object>>> documents(Path garden) throws SQLException {
    try (Connection connection = DriverManager.getConnection(Garden.url(garden))) {
      return documents(connection);
    }
  }

  static Map<String, Map<String, List<Object>>> documents(Connection garden) throws SQLException {
    Map<String, Map<String, List<Object>>> all = new TreeMap<>();
    for (List<@Nullable Object> row :
        GardenFiles.query(
            garden,
            """
            SELECT a.accession_no, t.name_en, t.latin_name, t.name_fr, f.name, b.title, a.status,
                   a.evergreen, a.height_cm, a.planted_on, a.visitor_interest, a.flowering, t.name_ja
            FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN family f ON f.id = t.family_id
            LEFT JOIN bed b ON b.code = a.bed_code WHERE a.status <> 'lost'""")) {
      Map<String, List<Object>> fields = new LinkedHashMap<>();
      put(fields, "number", row.get(0));
      put(fields, "name", row.get(1));
      put(fields, "latin_name", row.get(2));
      put(fields, "name_fr", row.get(3));
      put(fields, "family", row.get(4));
      put(fields, "bed", row.get(5));
      put(fields, "status", row.get(6));
      put(fields, "evergreen", Integer.valueOf(1).equals(row.get(7)));
      put(fields, "height_cm", row.get(8));
      put(fields, "planted_on", row.get(9) == null ? null : String.valueOf(row.get(9)));
      put(fields, "interest", row.get(10));
      put(fields, "name_ja", row.get(12));
      if (row.get(11) != null) {
        fields.put(
            "flowering",
            Arrays.stream(((String) row.get(11)).split(","))
                .<Object>map(Integer::valueOf)
                .toList());
      }
      all.put((String) row.get(0), fields);
    }
    addMany(
        garden,
        all,
        "sightings",
        """
        SELECT accession_no, text FROM sighting ORDER BY accession_no, seen_on DESC, id""");
    addMany(
        garden,
        all,
        "collectors",
        """
        SELECT ap.accession_no, p.name FROM accession_person ap JOIN person p ON p.id = ap.person_id
        WHERE ap.role IN ('collector', 'recorder') ORDER BY ap.accession_no, p.id""");
    addMany(
        garden,
        all,
        "labels",
        """
        SELECT al.accession_no, l.title FROM accession_label al JOIN label l ON l.id = al.label_id
        ORDER BY al.accession_no, l.id""");
    return all;
  }

  private static void put(Map<String, List<Object>> fields, String name, @Nullable Object value) {
    if (value != null) {
      fields.put(name, List.of(value));
    }
  }

  private static void addMany(
      Connection garden, Map<String, Map<String, List<Object>>> all, String field, String sql)
      throws SQLException {
    for (List<@Nullable Object> row : GardenFiles.query(garden, sql)) {
      Map<String, List<Object>> fields = all.get((String) row.get(0));
      if (fields != null && row.get(1) != null) {
        List<Object> values = fields.computeIfAbsent(field, f -> new ArrayList<>());
        if (values.size() < 200) {
          values.add(row.get(1));
        }
      }
    }
  }
}
