package org.mnemex.garden;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.SplittableRandom;
import java.util.random.RandomGenerator;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;

/** Makes the garden's database. */
public final class Garden {
  /** Accessions of a garden of the usual size. */
  public static final int USUAL_ACCESSIONS = 6000;

  private static final int ROWS_PER_BATCH = 1000;
  private static final int ACCESSIONS_PER_CARE_SHEET = 25;
  private static final int MOST_CARE_SHEETS = 1000;
  private static final LocalDate FIRST_DAY = LocalDate.of(2004, 1, 1);
  private static final int DAYS = 8000;

  private final RandomGenerator random;
  private final Prose prose;

  private Garden(long seed) {
    this.random = new SplittableRandom(seed);
    this.prose = new Prose(random);
  }

  /** The connection string of a garden in a file, with the settings that the writers use. */
  public static String url(Path file) {
    return "jdbc:sqlite:"
        + file.toAbsolutePath()
        + "?journal_mode=WAL&synchronous=NORMAL&busy_timeout=10000&foreign_keys=true";
  }

  /** The number of an accession as people write it. */
  public static String number(int accession) {
    return String.format(Locale.ROOT, "QB-%05d", accession);
  }

  /**
   * Makes a garden in a new file.
   *
   * @param accessions how many plants, 1 to 1,000,000
   * @throws IOException if the file is there already or cannot be written
   */
  public static void create(Path file, int accessions, long seed) throws IOException, SQLException {
    if (Files.exists(file)) {
      throw new IOException(file + " is there already");
    }
    Path parent = file.toAbsolutePath().getParent();
    if (parent != null) {
      Files.createDirectories(parent);
    }
    // Made under another name, so that a garden that is there is always a whole one.
    Path unfinished = file.resolveSibling(file.getFileName() + ".unfinished");
    Files.deleteIfExists(unfinished);
    try (Connection connection =
        DriverManager.getConnection("jdbc:sqlite:" + unfinished.toAbsolutePath())) {
      connection.setAutoCommit(false);
      new Garden(seed).fill(connection, accessions);
      connection.commit();
      connection.setAutoCommit(true);
      try (Statement statement = connection.createStatement()) {
        // Kept in the file: from now on readers and the writer do not wait for one another.
        statement.execute("PRAGMA journal_mode = WAL");
      }
    }
    Files.move(unfinished, file);
  }

  private void fill(Connection connection, int accessions) throws SQLException, IOException {
    try (Statement statement = connection.createStatement();
        InputStream schema = Garden.class.getResourceAsStream("schema.sql")) {
      if (schema == null) {
        throw new IOException("schema.sql is missing from the program");
      }
      statement.executeUpdate(new String(schema.readAllBytes(), StandardCharsets.UTF_8));
    }
    int taxa = taxa(connection);
    int people = people(connection, Math.max(40, accessions / 100));
    beds(connection);
    labels(connection);
    accessions(connection, accessions, taxa);
    sightings(connection, accessions);
    links(connection, accessions, people);
    careSheets(connection, accessions);
  }

  private int taxa(Connection connection) throws SQLException {
    List<String> families = new ArrayList<>();
    Vocabulary.GENERA.stream().map(g -> g[0]).distinct().forEach(families::add);
    insert(
        connection,
        "INSERT INTO family (id, name) VALUES (?, ?)",
        IntStream.range(0, families.size())
            .mapToObj(i -> new Object[] {i + 1, families.get(i)})
            .iterator());
    List<Object[]> rows = new ArrayList<>();
    for (String[] genus : Vocabulary.GENERA) {
      for (String[] epithet : Vocabulary.EPITHETS) {
        if (random.nextInt(3) == 0) {
          continue;
        }
        rows.add(
            new Object[] {
              rows.size() + 1,
              families.indexOf(genus[0]) + 1,
              genus[1],
              genus[1] + " " + epithet[0],
              capital(epithet[1]) + " " + genus[2],
              random.nextInt(8) == 0 ? null : capital(genus[3]) + " " + epithet[2],
              random.nextInt(8) == 0 ? null : german(epithet[3], genus[4]),
              random.nextInt(4) == 0 ? null : epithet[4] + genus[5]
            });
      }
    }
    insert(
        connection,
        "INSERT INTO taxon (id, family_id, genus, latin_name, name_en, name_fr, name_de, name_ja)"
            + " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        rows.iterator());
    return rows.size();
  }

  private static String german(String epithet, String genus) {
    return epithet.endsWith("e") ? epithet + " " + genus : epithet + "-" + genus;
  }

  private static String capital(String text) {
    return text.substring(0, 1).toUpperCase(Locale.ROOT) + text.substring(1);
  }

  private int people(Connection connection, int count) throws SQLException {
    insert(
        connection,
        "INSERT INTO person (id, name, email, phone) VALUES (?, ?, ?, ?)",
        IntStream.rangeClosed(1, count)
            .mapToObj(
                id -> {
                  String first = any(Vocabulary.FIRST_NAMES);
                  String last = any(Vocabulary.LAST_NAMES);
                  return new Object[] {
                    id,
                    first + " " + last,
                    "person" + id + "@quillmere.example",
                    String.format(Locale.ROOT, "+44 1632 %06d", random.nextInt(1_000_000))
                  };
                })
            .iterator());
    return count;
  }

  private void beds(Connection connection) throws SQLException {
    insert(
        connection,
        "INSERT INTO bed (code, title, latitude, longitude) VALUES (?, ?, ?, ?)",
        IntStream.range(0, Vocabulary.BEDS.size())
            .mapToObj(
                i ->
                    new Object[] {
                      bedCode(i),
                      Vocabulary.BEDS.get(i),
                      round(51.2 + random.nextDouble() / 100),
                      round(-0.3 + random.nextDouble() / 100)
                    })
            .iterator());
  }

  private static double round(double degrees) {
    return Math.round(degrees * 1e6) / 1e6;
  }

  static String bedCode(int bed) {
    return String.format(Locale.ROOT, "B%02d", bed + 1);
  }

  private static void labels(Connection connection) throws SQLException {
    insert(
        connection,
        "INSERT INTO label (id, title) VALUES (?, ?)",
        IntStream.range(0, Vocabulary.LABELS.size())
            .mapToObj(i -> new Object[] {i + 1, Vocabulary.LABELS.get(i)})
            .iterator());
  }

  private void accessions(Connection connection, int count, int taxa) throws SQLException {
    insert(
        connection,
        Gardener.INSERT_ACCESSION,
        IntStream.rangeClosed(1, count)
            .mapToObj(number -> accession(number, taxa, random, prose))
            .iterator());
  }

  /** The columns of a new accession. */
  static @Nullable Object[] accession(int number, int taxa, RandomGenerator random, Prose prose) {
    // Some taxa are planted everywhere and most are rare.
    int taxon = 1 + (int) (taxa * Math.pow(random.nextDouble(), 2));
    LocalDate planted = FIRST_DAY.plusDays(random.nextInt(DAYS));
    return new Object[] {
      number(number),
      taxon,
      random.nextInt(20) == 0 ? null : bedCode(random.nextInt(Vocabulary.BEDS.size())),
      random.nextInt(25) == 0 ? null : planted.toString(),
      random.nextInt(15) == 0 ? null : height(random),
      flowering(random),
      random.nextInt(3) == 0 ? 1 : 0,
      status(random),
      (int) (1000 * Math.pow(random.nextDouble(), 4)),
      prose.notes(),
      planted.plusDays(random.nextInt(300)) + "T09:00:00Z"
    };
  }

  static int height(RandomGenerator random) {
    return 5 + (int) (600 * Math.pow(random.nextDouble(), 3));
  }

  private static @Nullable String flowering(RandomGenerator random) {
    int months = random.nextInt(4);
    if (months == 0) {
      return null;
    }
    int first = 1 + (2 + random.nextInt(8)) % 12;
    StringBuilder out = new StringBuilder().append(first);
    for (int i = 1; i < months; i++) {
      out.append(',').append((first + i - 1) % 12 + 1);
    }
    return out.toString();
  }

  static String status(RandomGenerator random) {
    int at = random.nextInt(100);
    return at < 72 ? "planted" : at < 88 ? "nursery" : at < 97 ? "lost" : "embargoed";
  }

  private void sightings(Connection connection, int accessions) throws SQLException {
    long count = Math.round(accessions * (20.0 / 3));
    insert(
        connection,
        Gardener.INSERT_SIGHTING,
        IntStream.range(0, Math.toIntExact(count))
            .mapToObj(i -> sighting(1 + random.nextInt(accessions), random, prose))
            .iterator());
  }

  /** The columns of a new sighting. */
  static Object[] sighting(int accession, RandomGenerator random, Prose prose) {
    return new Object[] {
      number(accession),
      FIRST_DAY.plusDays(random.nextInt(DAYS)).toString(),
      any(Vocabulary.FIRST_NAMES, random) + " " + any(Vocabulary.LAST_NAMES, random),
      List.of("flowering", "pest", "damage", "growth").get(random.nextInt(4)),
      prose.sentences(1 + random.nextInt(2))
    };
  }

  private void links(Connection connection, int accessions, int people) throws SQLException {
    List<String> roles = List.of("collector", "propagator", "donor", "recorder");
    insert(
        connection,
        "INSERT OR IGNORE INTO accession_person (accession_no, person_id, role) VALUES (?, ?, ?)",
        IntStream.range(0, 2 * accessions)
            .mapToObj(
                i ->
                    new Object[] {
                      number(1 + i / 2), 1 + random.nextInt(people), roles.get(random.nextInt(4))
                    })
            .iterator());
    insert(
        connection,
        "INSERT OR IGNORE INTO accession_label (accession_no, label_id) VALUES (?, ?)",
        IntStream.range(0, accessions)
            .mapToObj(
                i ->
                    new Object[] {
                      number(1 + random.nextInt(accessions)),
                      1 + random.nextInt(Vocabulary.LABELS.size())
                    })
            .iterator());
  }

  private void careSheets(Connection connection, int accessions) throws SQLException, IOException {
    int count = Math.clamp(accessions / ACCESSIONS_PER_CARE_SHEET, 4, MOST_CARE_SHEETS);
    List<Object[]> rows = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      String title = "Care sheet " + (i + 1);
      String mediaType = CareSheets.MEDIA_TYPES.get(i % CareSheets.MEDIA_TYPES.size());
      List<String> lines = IntStream.range(0, 8).mapToObj(line -> prose.sentence()).toList();
      rows.add(
          new Object[] {
            number(1 + random.nextInt(accessions)),
            title,
            mediaType,
            CareSheets.make(mediaType, title, lines)
          });
    }
    insert(
        connection,
        "INSERT INTO care_sheet (accession_no, title, media_type, content) VALUES (?, ?, ?, ?)",
        rows.iterator());
  }

  private String any(List<String> words) {
    return any(words, random);
  }

  static String any(List<String> words, RandomGenerator random) {
    return words.get(random.nextInt(words.size()));
  }

  private static void insert(
      Connection connection, String sql, java.util.Iterator<@Nullable Object[]> rows)
      throws SQLException {
    try (PreparedStatement statement = connection.prepareStatement(sql)) {
      int waiting = 0;
      while (rows.hasNext()) {
        @Nullable Object[] row = rows.next();
        for (int i = 0; i < row.length; i++) {
          statement.setObject(i + 1, row[i]);
        }
        statement.addBatch();
        if (++waiting == ROWS_PER_BATCH) {
          statement.executeBatch();
          waiting = 0;
        }
      }
      statement.executeBatch();
    }
  }
}
