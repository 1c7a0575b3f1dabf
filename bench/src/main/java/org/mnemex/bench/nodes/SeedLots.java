package org.mnemex.bench.nodes;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.util.Map;
import java.util.Random;
import org.mnemex.bench.Vocabulary;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.PostgresServer;
import org.postgresql.PGConnection;
import org.postgresql.copy.CopyIn;

/** A seed bank: one table of many short rows on a private PostgreSQL server. */
final class SeedLots implements Subject, AutoCloseable {
  static final String INDEX = "seed-lots";

  private static final String DATABASE = "garden";
  private static final int LABEL_WORDS = 11;
  private static final int SENT = 1 << 16;

  private static final String DEFINITIONS =
      """
      source: seed-bank
      kind: postgres
      host: ${MNEMEX_GARDEN_HOST}
      port: ${MNEMEX_GARDEN_PORT}
      database: garden
      user: ${MNEMEX_GARDEN_USER}
      password: ${MNEMEX_GARDEN_PASSWORD}
      capture: log
      prepare: automatic
      ---
      index: seed-lots
      source: seed-bank
      record: {root: seed_lot, key: [id]}
      fields:
        label: {from: label, type: text, analyser: words}
        genus: {from: genus, type: exact, uses: [facet, filter, show]}
        origin: {from: origin, type: exact, uses: [facet, filter, show]}
        collected: {from: collected, type: date, uses: [sort, filter, show]}
        grams: {from: grams, type: integer, uses: [filter, show]}
      ---
      endpoint: seed-search
      index: seed-lots
      search: {label: 1}
      words: any
      facets:
        genus: {field: genus, limit: 10}
        origin: {field: origin, limit: 10}
      sorts: {best: relevance, newest: -collected}
      show: [label, genus, origin, collected, grams]
      page: {size: 10, most: 100}
      """;

  private final DatabaseServer server;
  private final Vocabulary vocabulary;

  private SeedLots(DatabaseServer server, Vocabulary vocabulary) {
    this.server = server;
    this.vocabulary = vocabulary;
  }

  /** Starts a server and makes the table. */
  static SeedLots create(int rows) throws IOException, SQLException {
    SeedLots lots =
        new SeedLots(
            PostgresServer.start(Files.createTempDirectory("mnemex-bench-pg")), new Vocabulary());
    try {
      lots.make(rows);
      return lots;
    } catch (SQLException | RuntimeException e) {
      lots.close();
      throw e;
    }
  }

  private void make(int rows) throws SQLException {
    server.createDatabase(DATABASE);
    try (Connection connection = server.connect(DATABASE);
        Statement statement = connection.createStatement()) {
      statement.execute(
          "CREATE TABLE seed_lot (id BIGINT PRIMARY KEY, label TEXT NOT NULL, genus TEXT NOT NULL,"
              + " origin TEXT NOT NULL, collected DATE NOT NULL, grams INTEGER NOT NULL)");
      CopyIn copy =
          connection.unwrap(PGConnection.class).getCopyAPI().copyIn("COPY seed_lot FROM STDIN");
      Random random = new Random(11);
      StringBuilder lines = new StringBuilder();
      for (int id = 1; id <= rows; id++) {
        append(lines, id, vocabulary, random);
        if (lines.length() > SENT || id == rows) {
          byte[] bytes = lines.toString().getBytes(StandardCharsets.UTF_8);
          copy.writeToCopy(bytes, 0, bytes.length);
          lines.setLength(0);
        }
      }
      copy.endCopy();
      statement.execute("VACUUM ANALYZE seed_lot");
    }
  }

  private static void append(StringBuilder lines, int id, Vocabulary vocabulary, Random random) {
    lines.append(id);
    char before = '\t';
    for (int i = 0; i < LABEL_WORDS; i++) {
      lines.append(before).append(vocabulary.word(random));
      before = ' ';
    }
    double squared = random.nextDouble() * random.nextDouble();
    lines.append("\tgenus ").append((int) (400 * squared));
    lines.append("\torigin ").append(random.nextInt(80));
    lines.append('\t').append(LocalDate.of(1960, 1, 1).plusDays(random.nextInt(24_000)));
    lines.append('\t').append(1 + random.nextInt(500)).append('\n');
  }

  /** What definitions name of the environment. */
  Map<String, String> environment() {
    return server.environment();
  }

  /** The definition files, by name. */
  static Map<String, String> definitions() {
    return Map.of("seed-bank.yaml", DEFINITIONS);
  }

  Vocabulary vocabulary() {
    return vocabulary;
  }

  /** The bytes of the table's rows, without its index. */
  long bytes() throws SQLException {
    try (Connection connection = connect();
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT pg_table_size('seed_lot')")) {
      rows.next();
      return rows.getLong(1);
    }
  }

  @Override
  public String endpoint() {
    return "seed-search";
  }

  @Override
  public String word() {
    return vocabulary.word(1000);
  }

  @Override
  public Connection connect() throws SQLException {
    return server.connect(DATABASE);
  }

  @Override
  public String change() {
    return "UPDATE seed_lot SET label = ? WHERE id = 17";
  }

  @Override
  public void close() throws IOException {
    server.close();
  }
}
