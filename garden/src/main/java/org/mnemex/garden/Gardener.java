package org.mnemex.garden;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Clock;
import java.util.List;
import java.util.SplittableRandom;
import java.util.random.RandomGenerator;
import org.jspecify.annotations.Nullable;

/** Keeps changing a garden: inserts, updates and deletes root, child, link and lookup rows. */
public final class Gardener implements AutoCloseable {
  static final String INSERT_ACCESSION =
      "INSERT INTO accession (accession_no, taxon_id, bed_code, planted_on, height_cm, flowering,"
          + " evergreen, status, visitor_interest, notes, changed_at)"
          + " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)";
  static final String INSERT_SIGHTING =
      "INSERT INTO sighting (accession_no, seen_on, observer, kind, text) VALUES (?, ?, ?, ?, ?)";

  private final Connection connection;
  private final RandomGenerator random;
  private final Prose prose;
  private final Clock clock;
  private final int taxa;
  private final int people;
  private int lastAccession;

  /** Works on a garden in an SQLite file. */
  public Gardener(Path file, long seed, Clock clock) throws SQLException {
    this(DriverManager.getConnection(Garden.url(file)), seed, clock);
  }

  /**
   * Works on a garden in a database.
   *
   * @param connection closed with the gardener
   */
  public Gardener(Connection connection, long seed, Clock clock) throws SQLException {
    this.connection = connection;
    this.random = new SplittableRandom(seed);
    this.prose = new Prose(random);
    this.clock = clock;
    this.taxa = number("SELECT max(id) FROM taxon");
    this.people = number("SELECT max(id) FROM person");
    this.lastAccession =
        number("SELECT max(CAST(substr(accession_no, 4) AS INTEGER)) FROM accession");
  }

  /** Makes one random change in its own transaction; returns a short description. */
  public String change() throws SQLException {
    int at = random.nextInt(100);
    if (at < 40) {
      return updateAccession();
    } else if (at < 50) {
      return insertAccession();
    } else if (at < 55) {
      return deleteAccession();
    } else if (at < 72) {
      return sighting();
    } else if (at < 80) {
      return updateSighting();
    } else if (at < 84) {
      return deleteSighting();
    } else if (at < 89) {
      return taxon();
    } else if (at < 95) {
      return link();
    } else if (at < 98) {
      return label();
    }
    return lookup();
  }

  private String updateAccession() throws SQLException {
    String accession = anyAccession();
    if (accession == null) {
      return insertAccession();
    }
    String now = clock.instant().toString();
    switch (random.nextInt(5)) {
      case 0 ->
          run(
              "UPDATE accession SET height_cm = ?, changed_at = ? WHERE accession_no = ?",
              Garden.height(random),
              now,
              accession);
      case 1 ->
          run(
              "UPDATE accession SET status = ?, changed_at = ? WHERE accession_no = ?",
              Garden.status(random),
              now,
              accession);
      case 2 ->
          run(
              "UPDATE accession SET bed_code = ?, changed_at = ? WHERE accession_no = ?",
              Garden.bedCode(random.nextInt(Vocabulary.BEDS.size())),
              now,
              accession);
      case 3 ->
          run(
              "UPDATE accession SET visitor_interest = visitor_interest + 1, changed_at = ?"
                  + " WHERE accession_no = ?",
              now,
              accession);
      default ->
          run(
              "UPDATE accession SET notes = ?, changed_at = ? WHERE accession_no = ?",
              prose.notes(),
              now,
              accession);
    }
    return "updated accession " + accession;
  }

  private String insertAccession() throws SQLException {
    @Nullable Object[] row = Garden.accession(++lastAccession, taxa, random, prose);
    row[row.length - 1] = clock.instant().toString();
    run(INSERT_ACCESSION, row);
    return "planted accession " + row[0];
  }

  private String deleteAccession() throws SQLException {
    String accession = anyAccession();
    if (accession == null) {
      return insertAccession();
    }
    run("DELETE FROM accession WHERE accession_no = ?", accession);
    return "removed accession " + accession;
  }

  private String sighting() throws SQLException {
    String accession = anyAccession();
    if (accession == null) {
      return insertAccession();
    }
    Object[] row = Garden.sighting(1, random, prose);
    row[0] = accession;
    run(INSERT_SIGHTING, row);
    return "noted a sighting of " + accession;
  }

  private String updateSighting() throws SQLException {
    int sighting = anySighting();
    run("UPDATE sighting SET text = ? WHERE id = ?", prose.sentences(2), sighting);
    return "corrected sighting " + sighting;
  }

  private String deleteSighting() throws SQLException {
    int sighting = anySighting();
    run("DELETE FROM sighting WHERE id = ?", sighting);
    return "removed sighting " + sighting;
  }

  private String taxon() throws SQLException {
    int taxon = 1 + random.nextInt(taxa);
    run(
        "UPDATE taxon SET name_en = CASE WHEN name_en LIKE '% (syn.)'"
            + " THEN substr(name_en, 1, length(name_en) - 7) ELSE name_en || ' (syn.)' END"
            + " WHERE id = ?",
        taxon);
    return "renamed taxon " + taxon;
  }

  private String link() throws SQLException {
    String accession = anyAccession();
    if (accession == null) {
      return insertAccession();
    }
    if (random.nextInt(3) == 0) {
      run("DELETE FROM accession_person WHERE accession_no = ?", accession);
      return "unlinked the people of " + accession;
    }
    int person = 1 + random.nextInt(people);
    String role = List.of("collector", "propagator", "donor", "recorder").get(random.nextInt(4));
    if (number(
            "SELECT count(*) FROM accession_person WHERE accession_no = ? AND person_id = ?"
                + " AND role = ?",
            accession,
            person,
            role)
        == 0) {
      run(
          "INSERT INTO accession_person (accession_no, person_id, role) VALUES (?, ?, ?)",
          accession,
          person,
          role);
    }
    return "linked a person to " + accession;
  }

  private String label() throws SQLException {
    String accession = anyAccession();
    if (accession == null) {
      return insertAccession();
    }
    int label = 1 + random.nextInt(Vocabulary.LABELS.size());
    if (random.nextInt(3) == 0) {
      run("DELETE FROM accession_label WHERE accession_no = ? AND label_id = ?", accession, label);
      return "took a label from " + accession;
    }
    if (number(
            "SELECT count(*) FROM accession_label WHERE accession_no = ? AND label_id = ?",
            accession,
            label)
        == 0) {
      run("INSERT INTO accession_label (accession_no, label_id) VALUES (?, ?)", accession, label);
    }
    return "labelled " + accession;
  }

  /** Rows that many records share: a rare change with many effects. */
  private String lookup() throws SQLException {
    int person = 1 + random.nextInt(people);
    if (random.nextInt(4) > 0) {
      run(
          "UPDATE person SET name = ? WHERE id = ?",
          Garden.any(Vocabulary.FIRST_NAMES, random)
              + " "
              + Garden.any(Vocabulary.LAST_NAMES, random),
          person);
      return "renamed person " + person;
    }
    int bed = random.nextInt(Vocabulary.BEDS.size());
    run(
        "UPDATE bed SET title = CASE WHEN title LIKE 'Old %' THEN substr(title, 5)"
            + " ELSE 'Old ' || title END WHERE code = ?",
        Garden.bedCode(bed));
    return "renamed bed " + Garden.bedCode(bed);
  }

  private @Nullable String anyAccession() throws SQLException {
    String from = Garden.number(1 + random.nextInt(Math.max(1, lastAccession)));
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT accession_no FROM accession WHERE accession_no >= ?"
                + " ORDER BY accession_no LIMIT 1")) {
      select.setString(1, from);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() ? rows.getString(1) : null;
      }
    }
  }

  private int anySighting() throws SQLException {
    int last = Math.max(1, number("SELECT max(id) FROM sighting"));
    return Math.max(
        1,
        number("SELECT id FROM sighting WHERE id >= " + (1 + random.nextInt(last)) + " LIMIT 1"));
  }

  private int number(String query, Object... values) throws SQLException {
    try (PreparedStatement select = connection.prepareStatement(query)) {
      for (int i = 0; i < values.length; i++) {
        select.setObject(i + 1, values[i]);
      }
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() ? rows.getInt(1) : 0;
      }
    }
  }

  private void run(String sql, @Nullable Object... values) throws SQLException {
    try (PreparedStatement statement = connection.prepareStatement(sql)) {
      for (int i = 0; i < values.length; i++) {
        statement.setObject(i + 1, values[i]);
      }
      statement.executeUpdate();
    }
  }

  @Override
  public void close() throws SQLException {
    connection.close();
  }
}
