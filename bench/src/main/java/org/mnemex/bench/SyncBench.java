package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.garden.Garden;

/**
 * Measures keeping in step on a server at any size: backfill of one table beside what the database
 * gives at most, with three joins beside one set-based JSON query, the audit, the rebuild from
 * stored records, and how fast a heap of changes is worked off beside a bare receiver of the same
 * log.
 */
public final class SyncBench {

  /** An index over one table, and one with three joins. */
  static final String DEFINITIONS =
      """
      index: one-table
      source: garden
      record: {root: accession, key: [accession_no]}
      most_removed: 100%
      fields:
        status: {from: status, type: exact}
        height_cm: {from: height_cm, type: integer}
        planted_on: {from: planted_on, type: date}
        notes: {from: notes, clean: [strip_html, squeeze], type: text, analyser: english}
      ---
      index: three-joins
      source: garden
      record:
        root: accession
        key: [accession_no]
        join:
          taxon: {table: taxon, match: {id: taxon_id}}
          family: {table: family, match: {id: taxon.family_id}}
          sightings: {table: sighting, match: {accession_no: accession_no}, many: true}
      fields:
        name: {from: taxon.name_en, type: text, analyser: english}
        family: {from: family.name, type: exact}
        notes: {from: notes, clean: [strip_html, squeeze], type: text, analyser: english}
        sightings: {from: sightings.text, type: text, analyser: english}
      ---
      endpoint: one-table-search
      index: one-table
      show: [status]
      """;

  private static final String THREE_JOINS_AS_JSON =
      """
      SELECT row_to_json(r)::text FROM (SELECT a.*, t AS taxon, f AS family,
        (SELECT json_agg(s) FROM sighting s WHERE s.accession_no = a.accession_no) AS sightings
        FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN family f ON f.id = t.family_id) r""";

  private static final String THREE_JOINS_AS_JSON_ON_MARIADB =
      """
      SELECT json_object('no', a.accession_no, 'bed', a.bed_code, 'planted', a.planted_on, 'height', a.height_cm,
        'flowering', a.flowering, 'status', a.status, 'interest', a.visitor_interest, 'notes', a.notes,
        'taxon', json_object('id', t.id, 'genus', t.genus, 'latin', t.latin_name, 'en', t.name_en,
          'fr', t.name_fr, 'de', t.name_de, 'ja', t.name_ja), 'family', f.name,
        'sightings', (SELECT json_arrayagg(json_object('id', s.id, 'on', s.seen_on, 'by', s.observer,
          'kind', s.kind, 'text', s.text)) FROM sighting s WHERE s.accession_no = a.accession_no))
      FROM accession a JOIN taxon t ON t.id = a.taxon_id JOIN family f ON f.id = t.family_id""";

  private final PrintStream out;
  private final ServerGarden garden;

  private SyncBench(PrintStream out, ServerGarden garden) {
    this.out = out;
    this.garden = garden;
  }

  /**
   * Measures and prints: {@code [--on mariadb] [ACCESSIONS]}, {@code --input FILE}, or {@code
   * --table NAME --url URL} with a user and a password from the environment.
   */
  public static void main(String[] args) throws Exception {
    List<String> left = new ArrayList<>(List.of(args));
    OwnRecords own;
    try {
      own = own(left);
      if (own != null) {
        own.columns();
      }
    } catch (IllegalArgumentException e) {
      end(String.valueOf(e.getMessage()));
      return;
    } catch (IOException | SQLException e) {
      end("The records cannot be read: " + e);
      return;
    }
    if (own != null) {
      new OwnDataBench(new PrintStream(System.out, true, StandardCharsets.UTF_8)).run(own);
      return;
    }
    boolean mariadb =
        left.size() >= 2 && left.getFirst().equals("--on") && left.get(1).equals("mariadb");
    if (left.size() >= 2 && left.getFirst().equals("--on")) {
      left.subList(0, 2).clear();
    }
    int accessions = left.isEmpty() ? 100_000 : Integer.parseInt(left.getFirst());
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    long start = System.nanoTime();
    try (ServerGarden garden =
        mariadb ? ServerGarden.onMariadb(accessions) : ServerGarden.onPostgres(accessions)) {
      out.printf(
          "Mnemex bench sync: %,d accessions on %s, %d cores, Java %s; garden made in %.0f s%n",
          accessions,
          garden.name(),
          Runtime.getRuntime().availableProcessors(),
          Runtime.version(),
          (System.nanoTime() - start) / 1e9);
      new SyncBench(out, garden).run(accessions);
    }
  }

  private static void end(String why) {
    System.err.println(why);
    System.exit(2);
  }

  private static @Nullable OwnRecords own(List<String> arguments) {
    Map<String, String> options = new HashMap<>();
    for (int i = 0; i + 1 < arguments.size(); i += 2) {
      options.put(arguments.get(i), arguments.get(i + 1));
    }
    String file = options.get("--input");
    String table = options.get("--table");
    String url = options.get("--url");
    if (file != null) {
      return new FileRecords(Path.of(file));
    }
    if (table == null && url == null) {
      return null;
    }
    if (table == null || url == null) {
      throw new IllegalArgumentException("--table NAME needs --url URL, and the other way round");
    }
    return new TableRecords(
        url, table, System.getenv("MNEMEX_BENCH_USER"), System.getenv("MNEMEX_BENCH_PASSWORD"));
  }

  private void run(int accessions) throws Exception {
    try (ServiceProcess service = ServiceProcess.start(garden.environment())) {
      MnemexClient client = service.client();
      Filling filling = new Filling(out, service);
      PlainReading plain = new PlainReading(garden);
      KeepingUp up = new KeepingUp(out, garden, client);
      long oneTable = backfill(filling, "one-table", plain.table("accession"), plain.what());
      double engine = PlainIndexing.rate(client, "one-table");
      out.printf(
          "  the engine alone, documents in memory, one thread %,.0f documents/s; ratio %.2f%n",
          engine, oneTable / engine);
      double json =
          plain.query(garden.postgres() ? THREE_JOINS_AS_JSON : THREE_JOINS_AS_JSON_ON_MARIADB);
      long backfill = backfill(filling, "three-joins", json, "one set-based JSON query");
      up.audit("three-joins", backfill);
      rebuild(filling, "three-joins", backfill);
      client.pauseFeed("three-joins");
      up.sustained(
          "one-table",
          "one-table-search",
          accessions,
          "UPDATE accession SET visitor_interest = visitor_interest + 1 WHERE accession_no = ?",
          (update, n) -> update.setString(1, Garden.number(n)));
    }
  }

  private Map<String, String> files(String index) throws IOException {
    Map<String, String> files = new LinkedHashMap<>(garden.definitions());
    StringBuilder wanted = new StringBuilder();
    for (String part : DEFINITIONS.split("---\n")) {
      if (part.contains("index: " + index)) {
        wanted.append(wanted.isEmpty() ? "" : "---\n").append(part);
      }
    }
    files.put("bench.yaml", wanted.toString());
    return files;
  }

  private long backfill(Filling filling, String name, double baseline, String what)
      throws Exception {
    long rate = filling.measure(name, "from the database", files(name));
    out.printf("  %s %,.0f rows/s; ratio %.2f%n", what, baseline, rate / baseline);
    return rate;
  }

  /** One more step that changes no text: the same work on the same records, as they are stored. */
  private void rebuild(Filling filling, String name, long backfill) throws Exception {
    Map<String, String> files = files(name);
    files.compute(
        "bench.yaml",
        (file, text) -> text.replace("strip_html, squeeze]", "strip_html, squeeze, trim]"));
    long rate = filling.measure(name, "from stored records", files);
    out.printf("  ratio to its backfill %.2f%n", (double) rate / backfill);
  }
}
