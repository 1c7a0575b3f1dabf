package org.mnemex.bench;

import java.io.IOException;
import java.io.OutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.mnemex.client.AuditReport;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;
import org.postgresql.PGConnection;

/**
 * Measures keeping in step on a server at any size: backfill of one table beside what the database
 * gives at most, with three joins beside one set-based JSON query, the audit, the rebuild from
 * stored records, and how fast a heap of changes is worked off beside a bare receiver of the same
 * log.
 */
public final class SyncBench {
  private static final int CHANGES = 100_000;
  private static final int CHANGES_PER_COMMIT = 100;
  private static final long PATIENCE_MINUTES = 60;

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

  /** Measures and prints: {@code [--on mariadb] [ACCESSIONS]}. */
  public static void main(String[] args) throws Exception {
    List<String> left = new ArrayList<>(List.of(args));
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

  private void run(int accessions) throws Exception {
    try (ServiceProcess service = ServiceProcess.start(garden.environment())) {
      MnemexClient client = service.client();
      Filling filling = new Filling(out, service);
      double copy = better(this::copy);
      backfill(
          filling,
          "one-table",
          copy,
          garden.postgres() ? "COPY (SELECT …) TO STDOUT" : "a SELECT that is streamed");
      double json = better(this::json);
      long backfill = backfill(filling, "three-joins", json, "one set-based JSON query");
      audit(client, "three-joins", backfill);
      rebuild(filling, "three-joins", backfill);
      client.pauseFeed("three-joins");
      sustained(client, Math.min(accessions, CHANGES));
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

  private static IndexStatus index(MnemexClient client, String name) {
    return client.indexes().stream().filter(i -> i.name().equals(name)).findFirst().orElseThrow();
  }

  @FunctionalInterface
  private interface Rate {
    double measure() throws SQLException, IOException;
  }

  /** The better of two runs: the second finds what it reads in the database's cache. */
  private static double better(Rate rate) throws SQLException, IOException {
    double first = rate.measure();
    return Math.max(first, rate.measure());
  }

  /** Rows a second of the whole table. */
  private double copy() throws SQLException, IOException {
    try (Connection connection = garden.connect()) {
      long start = System.nanoTime();
      if (garden.postgres()) {
        long rows =
            connection
                .unwrap(PGConnection.class)
                .getCopyAPI()
                .copyOut(
                    "COPY (SELECT * FROM accession) TO STDOUT", OutputStream.nullOutputStream());
        return rows * 1e9 / (System.nanoTime() - start);
      }
      return stream(connection, "SELECT * FROM accession");
    }
  }

  private double json() throws SQLException {
    try (Connection connection = garden.connect()) {
      return stream(
          connection, garden.postgres() ? THREE_JOINS_AS_JSON : THREE_JOINS_AS_JSON_ON_MARIADB);
    }
  }

  private static double stream(Connection connection, String sql) throws SQLException {
    connection.setAutoCommit(false);
    long start = System.nanoTime();
    long rows = 0;
    try (Statement statement = connection.createStatement()) {
      statement.setFetchSize(1000);
      try (ResultSet result = statement.executeQuery(sql)) {
        while (result.next()) {
          rows += result.getString(1).isEmpty() ? 0 : 1;
        }
      }
    }
    return rows * 1e9 / (System.nanoTime() - start);
  }

  private void audit(MnemexClient client, String name, long backfill) {
    long id = client.audit(name, false).id();
    ServiceProcess.await(
        () ->
            client.audits(name).stream()
                .anyMatch(report -> report.id() == id && !report.state().equals("running")));
    AuditReport.Result result = client.audits(name).getFirst().result();
    if (result == null) {
      throw new IllegalStateException("the audit failed: " + client.audits(name).getFirst());
    }
    long rate = result.records() * 1000 / Math.max(1, result.millis());
    out.printf(
        "audit of %s: %,d records/s, %.2f of its backfill; %s%n",
        name, rate, (double) rate / backfill, client.audits(name).getFirst().statement());
  }

  /** A heap of changes is made while nobody follows; then each side works it off alone. */
  private void sustained(MnemexClient client, int changes) throws Exception {
    client.pauseFeed("one-table");
    ServiceProcess.await(() -> "PAUSED".equals(phase(client)));
    double bareSeconds;
    try (BenchDatabase.BareReader bare = garden.bareReader()) {
      change(changes);
      long start = System.nanoTime();
      bare.begin();
      while (bare.seen() < changes / CHANGES_PER_COMMIT) {
        Thread.onSpinWait();
      }
      bareSeconds = (System.nanoTime() - start) / 1e9;
    }
    String position = client.position("one-table");
    long start = System.nanoTime();
    client.resumeFeed("one-table");
    while (true) {
      try {
        client.search("one-table-search", SearchQuery.words("").trueFor(position));
        break;
      } catch (ProblemException e) {
        // It waits for some seconds only.
        if (System.nanoTime() - start > TimeUnit.MINUTES.toNanos(PATIENCE_MINUTES)) {
          throw e;
        }
      }
    }
    double seconds = (System.nanoTime() - start) / 1e9;
    out.printf(
        "sustained: %,d changes worked off in %.1f s, %,.0f records/s; a bare receiver %,.0f rows/s; ratio %.2f%n",
        changes, seconds, changes / seconds, changes / bareSeconds, bareSeconds / seconds);
  }

  private static String phase(MnemexClient client) {
    IndexStatus.Edition live = index(client, "one-table").live();
    return live == null ? "" : live.phase();
  }

  private void change(int changes) throws SQLException {
    try (Connection connection = garden.connect();
        PreparedStatement update =
            connection.prepareStatement(
                "UPDATE accession SET visitor_interest = visitor_interest + 1 WHERE accession_no = ?")) {
      connection.setAutoCommit(false);
      for (int i = 1; i <= changes; i++) {
        update.setString(1, Garden.number(i));
        update.addBatch();
        if (i % CHANGES_PER_COMMIT == 0) {
          update.executeBatch();
          connection.commit();
        }
      }
    }
  }
}
