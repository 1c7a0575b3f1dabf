package org.mnemex.bench;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.Map;
import org.mnemex.garden.Garden;

/** The garden in a file in the folder that the service runs in. */
public record SqliteGarden(Path file) implements BenchDatabase {
  static final String RECORDS_AS_JSON =
      """
      SELECT json_object('accession_no', a.accession_no, 'notes', a.notes, 'status', a.status,
          'height_cm', a.height_cm, 'planted_on', a.planted_on, 'flowering', a.flowering,
          'taxon', json_object('id', t.id, 'latin_name', t.latin_name, 'name_en', t.name_en,
              'name_fr', t.name_fr, 'name_de', t.name_de, 'name_ja', t.name_ja, 'genus', t.genus),
          'family', json_object('id', f.id, 'name', f.name),
          'bed', json_object('code', b.code, 'title', b.title),
          'sightings', (SELECT json_group_array(json_object('id', s.id, 'seen_on', s.seen_on,
              'observer', s.observer, 'kind', s.kind, 'text', s.text))
              FROM sighting s WHERE s.accession_no = a.accession_no),
          'sheets', (SELECT json_group_array(json_object('id', c.id, 'title', c.title))
              FROM care_sheet c WHERE c.accession_no = a.accession_no),
          'collectors', (SELECT json_group_array(json_object('id', p.id, 'name', p.name))
              FROM accession_person ap JOIN person p ON p.id = ap.person_id
              WHERE ap.accession_no = a.accession_no AND ap.role IN ('collector', 'recorder')),
          'labels', (SELECT json_group_array(json_object('id', l.id, 'title', l.title))
              FROM accession_label al JOIN label l ON l.id = al.label_id
              WHERE al.accession_no = a.accession_no))
      FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN family f ON f.id = t.family_id
      LEFT JOIN bed b ON b.code = a.bed_code WHERE a.status <> 'lost' ORDER BY a.accession_no""";

  /** Creates it. */
  public static SqliteGarden create(Path folder, int accessions) throws IOException, SQLException {
    Path file = folder.resolve("mnemex-data/garden.db");
    Garden.create(file, accessions, 1759);
    return new SqliteGarden(file);
  }

  @Override
  public String name() {
    return "SQLite";
  }

  @Override
  public Map<String, String> environment() {
    return Map.of();
  }

  @Override
  public Map<String, String> definitions() {
    return Map.of();
  }

  @Override
  public Connection connect() throws SQLException {
    return DriverManager.getConnection(Garden.url(file));
  }

  @Override
  public String recordsAsJson() {
    return RECORDS_AS_JSON;
  }

  @Override
  public BareReader bareReader() throws SQLException {
    return new BareJournalReader(file);
  }

  @Override
  public void close() {
    // The folder is a temporary one.
  }
}
