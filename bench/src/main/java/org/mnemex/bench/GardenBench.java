package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.net.ServerSocket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.function.BooleanSupplier;
import java.util.stream.Stream;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;

/**
 * Measures the packaged service on the demo garden from outside: start, backfill, lag of single
 * changes, searches. Run it with {@code ./mnemex bench}; the first argument is the number of
 * accessions.
 */
public final class GardenBench {
  private static final int CHANGES = 300;
  private static final int SEARCHES = 1000;
  private static final List<String> WORDS =
      List.of(
          "fern",
          "shade fern",
          "damaged slugs",
          "rose",
          "\"late frost\"",
          "asplenium",
          "vig*",
          "honey fungus OR aphids",
          "mulched leaf mould",
          "japanese maple",
          "doradille",
          "");

  /** One set-based query that gives the same records as JSON. */
  private static final String RECORDS_AS_JSON =
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

  private final PrintStream out;
  private final Path folder;
  private final Path garden;

  private GardenBench(PrintStream out, Path folder) {
    this.out = out;
    this.folder = folder;
    this.garden = folder.resolve("mnemex-data/garden.db");
  }

  /** Measures and prints. */
  public static void main(String[] args) throws IOException, SQLException, InterruptedException {
    int accessions = args.length > 0 ? Integer.parseInt(args[0]) : Garden.USUAL_ACCESSIONS;
    Path folder = Files.createTempDirectory("mnemex-bench");
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    new GardenBench(out, folder).run(accessions);
  }

  private void run(int accessions) throws IOException, SQLException, InterruptedException {
    out.printf(
        "Mnemex bench: garden of %,d accessions, %d cores, Java %s%n",
        accessions, Runtime.getRuntime().availableProcessors(), Runtime.version());
    Garden.create(garden, accessions, 1759);
    int port;
    try (ServerSocket free = new ServerSocket(0)) {
      port = free.getLocalPort();
    }
    long start = System.nanoTime();
    Process service = startService(port);
    try (MnemexClient client = new MnemexClient(URI.create("http://127.0.0.1:" + port))) {
      await(client::isUp);
      out.printf("start of the service: %.1f s%n", (System.nanoTime() - start) / 1e9);
      backfill(client);
      search(client);
      lag(client);
    } finally {
      service.destroy();
      service.waitFor();
    }
  }

  private Process startService(int port) throws IOException {
    String launcher = System.getenv("MNEMEX_LAUNCHER");
    if (launcher == null) {
      throw new IOException("start this through ./mnemex bench");
    }
    return new ProcessBuilder(launcher, "serve", "--server.port=" + port)
        .directory(folder.toFile())
        .redirectErrorStream(true)
        .redirectOutput(folder.resolve("service.log").toFile())
        .start();
  }

  private void backfill(MnemexClient client) throws IOException, SQLException {
    long start = System.nanoTime();
    client.apply(definitions());
    await(() -> client.indexes().getFirst().live() != null);
    double seconds = (System.nanoTime() - start) / 1e9;
    IndexStatus.Edition live = client.indexes().getFirst().live();
    if (live == null) {
      throw new IllegalStateException("the index has gone");
    }
    long records = live.documents();
    double baseline = 0;
    // The database's cache is as warm for one as for the other.
    for (int run = 0; run < 3; run++) {
      baseline = Math.max(baseline, readAsJson());
    }
    out.printf(
        "backfill: %,d records in %.2f s from apply to live; the feed %,d records/s;"
            + " one set-based JSON query %,.0f records/s; ratio %.2f%n",
        records, seconds, live.recordsPerSecond(), baseline, live.recordsPerSecond() / baseline);
    out.printf(
        "index: %.1f MB in %d segments, %.0f bytes a document with stored records%n",
        live.bytes() / 1e6, live.segments(), (double) live.bytes() / records);
  }

  private double readAsJson() throws SQLException {
    try (Connection connection = DriverManager.getConnection(Garden.url(garden));
        Statement statement = connection.createStatement()) {
      long start = System.nanoTime();
      long rows = 0;
      long characters = 0;
      try (ResultSet result = statement.executeQuery(RECORDS_AS_JSON)) {
        while (result.next()) {
          characters += result.getString(1).length();
          rows++;
        }
      }
      if (characters == 0) {
        throw new IllegalStateException("the garden is empty");
      }
      return rows * 1e9 / (System.nanoTime() - start);
    }
  }

  private void search(MnemexClient client) {
    Random random = new Random(1);
    Times whole = new Times();
    Times inService = new Times();
    for (int i = 0; i < SEARCHES; i++) {
      SearchQuery query = SearchQuery.words(WORDS.get(random.nextInt(WORDS.size())));
      if (random.nextInt(3) == 0) {
        query = query.choose("height", "30..100");
      }
      long start = System.nanoTime();
      double millis = client.search("plant-search", query).millis();
      if (i >= SEARCHES / 5) {
        whole.add(System.nanoTime() - start);
        inService.add((long) (millis * 1e6));
      }
    }
    out.printf("search with 8 facets and highlights, over HTTP: %s%n", whole);
    out.printf("search with 8 facets and highlights, in the service: %s%n", inService);
  }

  /** From the commit's return to the search that finds it, beside a reader that only sees it. */
  private void lag(MnemexClient client) throws SQLException, InterruptedException {
    Times found = new Times();
    Times seen = new Times();
    try (Connection connection = DriverManager.getConnection(Garden.url(garden));
        Statement numbers = connection.createStatement();
        PreparedStatement update =
            connection.prepareStatement(
                "UPDATE accession SET notes = ?, status = 'planted' WHERE accession_no = ?");
        BareJournalReader bare = new BareJournalReader(garden)) {
      for (int i = 0; i < CHANGES; i++) {
        String word = "x" + Long.toString(System.nanoTime(), 36);
        boolean measureBare = i % 2 == 0;
        update.setString(1, "<p>Labelled " + word + "</p>");
        update.setString(2, Garden.number(1 + i));
        update.executeUpdate();
        long committed = System.nanoTime();
        if (measureBare) {
          long wanted =
              BareJournalReader.number(
                  numbers, "SELECT seq FROM sqlite_sequence WHERE name = 'mnemex_journal'");
          while (bare.seen() < wanted) {
            Thread.onSpinWait();
          }
          seen.add(System.nanoTime() - committed);
        }
        SearchQuery query = SearchQuery.words(word);
        while (client.search("plant-search", query).total().count() == 0) {
          Thread.onSpinWait();
        }
        if (!measureBare) {
          found.add(System.nanoTime() - committed);
        }
      }
    }
    out.printf("lag of single changes, commit to found over HTTP: %s%n", found);
    out.printf("lag of a bare reader of the same journal: %s%n", seen);
    out.printf(
        "lag above the bare reader: p50 %.1f ms, p99 %.1f ms%n",
        found.quantile(0.5) - seen.quantile(0.5), found.quantile(0.99) - seen.quantile(0.99));
  }

  private static Map<String, String> definitions() throws IOException {
    String home = System.getenv("MNEMEX_HOME");
    Path folder = Path.of(home == null ? "." : home, "examples", "garden");
    Map<String, String> files = new LinkedHashMap<>();
    try (Stream<Path> inside = Files.list(folder)) {
      for (Path file : inside.sorted().toList()) {
        files.put(String.valueOf(file.getFileName()), Files.readString(file));
      }
    }
    return files;
  }

  private static void await(BooleanSupplier condition) {
    long deadline = System.nanoTime() + 600_000_000_000L;
    while (!condition.getAsBoolean()) {
      if (System.nanoTime() > deadline) {
        throw new IllegalStateException("waited ten minutes in vain");
      }
      try {
        // Rarely enough that asking does not slow down what is measured.
        Thread.sleep(100);
      } catch (InterruptedException e) {
        throw new IllegalStateException(e);
      }
    }
  }
}
